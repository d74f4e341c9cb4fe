<?php

declare(strict_types=1);

namespace App\Alarms;

use App\Care\KeptStanding;
use App\Models\AlarmSort;
use App\Models\Approval;
use App\Models\CartridgeCall;
use App\Models\Run;
use App\Models\Workload;

/** Looks what is so now of all that alarms are raised for. */
final class Causes
{
    /** What stands in the trail's last check, as App\Jobs\CheckTrail writes it down. */
    public const TRAIL = 'trail-check';

    /** Of what a standing says: which are a broken promise, which a doubt. */
    private const CONCERNS = [
        'nothing' => AlarmSort::Promise,
        'unusable' => AlarmSort::Promise,
        'rpo' => AlarmSort::Promise,
        'rto' => AlarmSort::Promise,
        'doubt' => AlarmSort::Doubt,
    ];

    /** What ended longer ago was either heard of, or is nobody's any more. */
    private const DAYS = 7;

    /** @return list<Cause> */
    public static function now(): array
    {
        return [...self::overrides(), ...self::runs(), ...self::cartridges(), ...self::standings(), ...self::trail()];
    }

    /** @return list<Cause> */
    private static function overrides(): array
    {
        $open = Approval::query()->where('state', 'overridden')->whereNull('reviewed_at')->with('asker')->get();

        return array_values(
            $open
                ->map(
                    fn (Approval $one): Cause => new Cause(
                        AlarmSort::Override,
                        "approval {$one->id}",
                        "Run {$one->run_id} of request {$one->request_id} was begun by {$one->asker->name} without approval. ".
                            "Reason: {$one->words}",
                        "/approvals/{$one->id}",
                        $one->workload_id,
                    ),
                )
                ->all(),
        );
    }

    /** @return list<Cause> */
    private static function runs(): array
    {
        $runs = Run::query()
            ->with('workload')
            ->where(
                fn ($query) => $query
                    ->where('state', 'waiting')
                    ->orWhere(
                        fn ($query) => $query->whereIn('state', ['failed', 'done'])->where('ended_at', '>', now()->subDays(self::DAYS)),
                    ),
            )
            ->orderByDesc('id')
            ->limit(500)
            ->get();
        $causes = [];
        foreach ($runs as $run) {
            $words = match (true) {
                $run->state === 'waiting' => 'waits for '.implode(' and ', $run->waits_for ?? []).'.',
                $run->state === 'failed' => "failed: {$run->failure}",
                ($run->outcome['right'] ?? true) === false => 'ended, and what came back is not all right.',
                default => null,
            };
            $sort = $run->state === 'waiting' ? AlarmSort::Wait : AlarmSort::Run;
            if ($words !== null) {
                $told = "Run {$run->id} of {$run->workload->name} $words";
                $causes[] = new Cause($sort, "run {$run->id}", $told, "/runs/{$run->id}", $run->workload_id);
            }
        }

        return $causes;
    }

    /** @return list<Cause> */
    private static function cartridges(): array
    {
        $calls = CartridgeCall::query()->with('store', 'run')->whereNull('arrived_at')->limit(500)->get();

        return array_values(
            $calls
                ->map(
                    fn (CartridgeCall $call): Cause => new Cause(
                        AlarmSort::Cartridge,
                        "{$call->store->name}/{$call->label}",
                        "The cartridge {$call->label} of {$call->store->name} is to be fetched.",
                        "/stores/{$call->store->name}/cartridges/{$call->label}",
                        $call->run?->workload_id,
                    ),
                )
                ->all(),
        );
    }

    /** @return list<Cause> */
    private static function standings(): array
    {
        $causes = [];
        foreach (KeptStanding::all(Workload::query()) as $id => $kept) {
            foreach ($kept->standing?->concerns() ?? [] as $concern) {
                $sort = self::CONCERNS[$concern->kind] ?? null;
                if ($sort !== null) {
                    $what = "{$kept->name}: {$concern->what}";
                    $causes[] = new Cause($sort, "workload $id {$concern->kind}", $what, "/workloads/$id/care", $id);
                }
            }
        }

        return $causes;
    }

    /** @return list<Cause> */
    private static function trail(): array
    {
        $wrong = (int) cache()->get(self::TRAIL, 0);

        return $wrong === 0
            ? []
            : [
                new Cause(
                    AlarmSort::Trail,
                    'check',
                    "The trail is not as it was sealed: $wrong things are wrong. bin/kaiseki trail check",
                    '/trail',
                ),
            ];
    }
}
