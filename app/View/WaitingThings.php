<?php

declare(strict_types=1);

namespace App\View;

use App\Care\KeptStanding;
use App\Care\NewSources;
use App\Care\UnprotectedSource;
use App\Kinds\AddsToDesk;
use App\Kinds\Kind;
use App\Kinds\Kinds;
use App\Models\Approval;
use App\Models\CartridgeCall;
use App\Models\Consent;
use App\Models\RecoveryRequest;
use App\Models\Right;
use App\Models\Role;
use App\Models\Run;
use App\Models\User;
use App\Models\Workload;
use App\Rights\PersonRights;
use App\Runs\SetAsides;
use Illuminate\Database\Eloquent\Builder;

/** All that waits for one person, whatever room it lies in: the most urgent first. */
final class WaitingThings
{
    /** Of each sort: nobody reads more of them before the first are done. */
    private const EACH = 100;

    /** What is set aside and goes within so many days is said before it does. */
    private const SOON_DAYS = 3;

    private function __construct(private readonly User $user)
    {
    }

    /** @return list<WaitingThing> */
    public static function of(User $user): array
    {
        $waiting = new self($user);
        $things = match ($user->role) {
            Role::Requester => $waiting->answers(),
            Role::Administrator => [],
            Role::Auditor => $waiting->concerns(),
            Role::Approver => [...$waiting->approvals(), ...$waiting->consents()],
            Role::Operator => [
                ...$waiting->approvals(), ...$waiting->consents(), ...$waiting->cartridges(), ...$waiting->runs(),
                ...$waiting->setAsides(), ...$waiting->concerns(), ...$waiting->sources(), ...$waiting->ofKinds(),
            ],
        };
        usort($things, fn (WaitingThing $a, WaitingThing $b): int => $b->weight <=> $a->weight ?: $a->at <=> $b->at);

        return $things;
    }

    /** @return list<WaitingThing> what only a kind of workload knows of */
    private function ofKinds(): array
    {
        $adding = array_filter(Kinds::all(), fn (Kind $kind): bool => $kind instanceof AddsToDesk);

        return array_merge(...array_values(array_map(fn (AddsToDesk $kind): array => $kind->waiting($this->user), $adding)));
    }

    /** @return list<WaitingThing> */
    private function approvals(): array
    {
        $open = Approval::seenBy($this->user)
            ->with('workload')
            ->where(fn (Builder $query) => $query
                ->where('state', 'asked')
                ->orWhere(fn (Builder $query) => $query->where('state', 'overridden')->whereNull('reviewed_at')))
            ->orderBy('asked_at')
            ->limit(self::EACH)
            ->get();

        return array_values($open->map(fn (Approval $approval): WaitingThing => $this->approval($approval))->all());
    }

    private function approval(Approval $approval): WaitingThing
    {
        $isBegun = $approval->state === 'overridden';
        [$weight, $step] = match (true) {
            ! $this->user->can('decide', $approval) => [30, 'Somebody else decides'],
            $isBegun => [100, 'Review it'],
            default => [90, 'Decide'],
        };

        return new WaitingThing(
            $weight,
            "request {$approval->request_id}",
            ($isBegun ? 'Begun without approval: ' : "{$approval->asker->name} asks for approval: ").$approval->sentence,
            $approval->asked_at,
            $step,
            "/approvals/{$approval->id}",
            "approval-{$approval->id}",
        );
    }

    /** @return list<WaitingThing> */
    private function consents(): array
    {
        $open = Consent::seenBy($this->user)->where('state', 'asked')->orderBy('asked_at')->limit(self::EACH)->get();

        return array_values($open->map(function (Consent $consent): WaitingThing {
            $isMine = $this->user->can('decide', $consent);

            return new WaitingThing(
                $isMine ? 85 : 30,
                $consent->workload->name,
                "{$consent->asker->name} asks: {$consent->words}",
                $consent->asked_at,
                $isMine ? 'Decide' : 'Somebody else decides',
                "/consents/{$consent->id}",
                "consent-{$consent->id}",
            );
        })->all());
    }

    /** @return list<WaitingThing> */
    private function cartridges(): array
    {
        $things = [];
        $reach = PersonRights::of($this->user);
        $calls = CartridgeCall::query()->with('store')->whereNull('arrived_at')->orderBy('asked_at')->limit(self::EACH)->get();
        foreach ($calls as $call) {
            if ($reach->may(Right::Tend, $call->store)) {
                $things[] = new WaitingThing(
                    $call->run_id === null ? 55 : 95,
                    "cartridge {$call->label}",
                    $call->run_id === null ? 'It was asked for, and is to be fetched.' : "Run {$call->run_id} waits until it is fetched.",
                    $call->asked_at,
                    'Fetch it, and record that it is there',
                    "/stores/{$call->store->name}/cartridges/{$call->label}",
                    "cartridge-{$call->label}",
                );
            }
        }

        return $things;
    }

    /** @return list<WaitingThing> of requests that are open still: runs that wait for something, and those that failed */
    private function runs(): array
    {
        $seen = Workload::seenBy($this->user)->select('id');
        $last = Run::query()->selectRaw('MAX(id)')->whereNotNull('request_id')->groupBy('request_id');
        $runs = Run::query()
            ->with('workload')
            ->whereIn('workload_id', $seen)
            ->whereIn('state', ['waiting', 'failed', 'stopped'])
            ->whereIn('id', $last)
            ->whereHas('request', fn (Builder $query) => $query->where('state', '<>', 'closed'))
            ->latest('id')
            ->limit(self::EACH)
            ->get();

        return array_values($runs->map(fn (Run $run): WaitingThing => new WaitingThing(
            ['waiting' => 70, 'failed' => 88, 'stopped' => 65][$run->state],
            "request {$run->request_id}",
            match ($run->state) {
                'waiting' => "Run {$run->id} waits for ".implode(' and ', $run->waits_for ?? []).'.',
                'failed' => "Run {$run->id} failed: {$run->failure}",
                default => "Run {$run->id} was stopped, and what it had staged is still there.",
            },
            $run->ended_at ?? $run->created_at,
            $run->state === 'waiting' ? 'Read what it waits for' : 'Go on with it, or order another',
            $run->page(),
            "run-{$run->id}",
        ))->all());
    }

    /** @return list<WaitingThing> */
    private function setAsides(): array
    {
        $kept = SetAsides::kept()
            ->whereIn('workload_id', Workload::seenBy($this->user)->select('id'))
            ->where('set_aside_until', '<', now()->addDays(self::SOON_DAYS))
            ->limit(self::EACH)
            ->get();

        return array_values($kept->map(fn (Run $run): WaitingThing => new WaitingThing(
            50,
            $run->workload->name,
            "What run {$run->id} replaced goes: after that it cannot be put back.",
            $run->set_aside_until,
            'Keep it longer, or let it go',
            "/runs/{$run->id}",
            "aside-{$run->id}",
        ))->all());
    }

    /** @return list<WaitingThing> the weightiest concern of each workload that has a heavy one */
    private function concerns(): array
    {
        $things = [];
        foreach (KeptStanding::all(Workload::seenBy($this->user)) as $id => $kept) {
            $concerns = $kept->standing?->concerns() ?? [];
            if ($concerns === [] || ! $concerns[0]->isToday()) {
                continue;
            }
            $things[] = new WaitingThing(
                min(80, $concerns[0]->weight),
                $kept->name,
                $concerns[0]->what.(count($concerns) > 1 ? ' And '.(count($concerns) - 1).' more.' : ''),
                null,
                $this->user->role === Role::Auditor ? 'See its care' : $concerns[0]->todo,
                "/workloads/$id/care",
                "concern-$id",
            );
        }

        return $things;
    }

    /** @return list<WaitingThing> hosts that nothing protects and no rule takes up, as one thing */
    private function sources(): array
    {
        $open = array_filter(NewSources::kept(), fn (UnprotectedSource $one): bool => ! $one->hasRule && $this->user->sees($one->group));
        if ($open === []) {
            return [];
        }
        $names = array_column(array_slice($open, 0, 3), 'name');

        return [
            new WaitingThing(
                45,
                'estate',
                implode(', ', $names).(count($open) > 3 ? ' and '.(count($open) - 3).' more' : '').
                    (count($open) === 1 ? ' is' : ' are').' not protected, and no rule takes '.(count($open) === 1 ? 'it' : 'them').' up.',
                null,
                'Take up, or let be',
                '/estate#unprotected',
                'sources',
            ),
        ];
    }

    /** @return list<WaitingThing> what came back for who asked for it */
    private function answers(): array
    {
        $mine = RecoveryRequest::query()->where('requester_id', $this->user->id);
        $back = $mine->where('state', 'answer')->oldest('id')->limit(self::EACH)->get();

        return array_values($back->map(fn (RecoveryRequest $request): WaitingThing => new WaitingThing(
            90,
            "request {$request->id}",
            "It is there: {$request->summary}",
            null,
            'Say whether it is right',
            "/requests/{$request->id}",
            "answer-{$request->id}",
        ))->all());
    }
}
