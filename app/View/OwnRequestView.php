<?php

declare(strict_types=1);

namespace App\View;

use App\Kinds\HandsOver;
use App\Kinds\Kinds;
use App\Models\RecoveryRequest;
use App\Models\Run;
use App\Models\User;
use App\Words;
use Illuminate\Support\Facades\View;
use Kaiseki\Core\Proof\CheckLine;

/**
 * A request as the person sees it who asked: what they asked, how it stands, and what came of it. Nothing of the work, nor of where
 * anything lies.
 */
final readonly class OwnRequestView
{
    public bool $canAnswer;

    /** Whether they may hear of the workload at all that it was settled to. */
    private bool $sees;

    public function __construct(public RecoveryRequest $request, public User $user)
    {
        $this->canAnswer = $user->can('answer', $request);
        $this->sees = $request->workload !== null && $user->sees($request->workload->group);
    }

    public function workload(): ?string
    {
        return $this->sees ? $this->request->workload?->name : null;
    }

    public function run(): ?Run
    {
        return $this->request->runs->first(fn (Run $run): bool => $this->user->can('hear', $run));
    }

    public function state(): string
    {
        return match ($this->request->state) {
            'running' => $this->run()?->isOver() === false ? 'It is being brought back.' : 'Somebody works on it.',
            'answer' => 'Something came back. Look at it, and say whether it is right.',
            'closed' => 'It is closed.',
            default => 'It is on the desk, and an operator works on it.',
        };
    }

    /** Whether something is at work that ends by itself. */
    public function isMoving(): bool
    {
        $run = $this->run();

        return $run !== null && ($run->isBeingPutBack() || in_array($run->state, ['queued', 'running'], true)) &&
            ! $this->isReadyToDownload($run);
    }

    /** Whether they bring it back themselves, and nobody was told what was good. */
    public function isTheirDoing(): bool
    {
        return $this->run()?->isOwn() ?? false;
    }

    /** Whether it is due from somebody else. */
    public function isWaitedFor(): bool
    {
        return $this->request->state !== 'closed' && ! ($this->isTheirDoing() && $this->run()?->isOver());
    }

    /** The question for the second person that their own order waits for; null if none does. */
    public function waitsForYes(): bool
    {
        return $this->request->approvals()->where('state', 'asked')->where('asked_by', $this->user->id)->exists();
    }

    /** Whether they may undo what they brought back themselves. */
    public function canPutBack(Run $run): bool
    {
        return $run->canBePutBack() && $this->user->can('putBack', $run);
    }

    /** @return list<string> of the last run: what was found when it was read again, and what did not come back */
    public function found(Run $run): array
    {
        if ($run->state !== 'done' || $run->put_back_at !== null || ! $run->isOwn()) {
            return [];
        }
        $checks = array_map(fn (CheckLine $line): string => $line->told(), CheckLine::all($run->outcome['checks'] ?? []));
        $left = array_map(
            fn (array $row): string => "not brought back: {$row['path']}: {$row['because']}",
            array_slice($run->outcome['left_out'] ?? [], 0, 20),
        );

        return [...$checks, ...$left];
    }

    /** What its kind has to show them of it, if anything. */
    public function partOfKind(Run $run): ?string
    {
        $view = Kinds::of($run)->view('own-run');

        return $this->user->can('hear', $run) && View::exists($view) ? $view : null;
    }

    /** What came back, as far as it is told. */
    public function came(Run $run): string
    {
        return match (true) {
            $run->put_back_at !== null => 'It was taken away again.',
            $run->isBeingPutBack() => 'It is being taken away again.',
            $run->state === 'done' => Kinds::of($run)->carrier()->came($run).' came back, and '.self::howItCame($run->outcome ?? []),
            $run->isOver() => 'The last try did not end well. An operator sees to it.',
            default => 'It is not there yet.',
        };
    }

    /** @param  array<string, mixed>  $outcome  of a run that is done */
    private static function howItCame(array $outcome): string
    {
        return match (true) {
            ($outcome['put_back']['state'] ?? '') === 'failed' => 'could not all be taken away again: ask the operator.',
            $outcome['right'] ?? false => 'all of it was found right.',
            default => 'not all of it is right: ask the operator what is missing.',
        };
    }

    /** What a download holds, in words. */
    public function download(Run $run): string
    {
        return Words::count($run->files_total, 'file').', '.Words::size($run->bytes_total)." ({$run->taken_as})";
    }

    /** @return array<string, string> what the run wrote for them: address => what it is */
    public function handedOver(Run $run): array
    {
        $carrier = Kinds::of($run)->carrier();

        return $carrier instanceof HandsOver && $this->user->can('download', $run) ? $carrier->handsOver($run) : [];
    }

    public function isReadyToDownload(Run $run): bool
    {
        return $run->taken_as !== null && $run->state === 'queued' && $this->user->can('download', $run);
    }
}
