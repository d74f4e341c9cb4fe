<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Run;

use App\Kinds\Machines\Machines;
use App\Kinds\Machines\Order\MachineWay;
use App\Models\Run;
use Carbon\CarbonImmutable;

/** Which machines came back lately, and when: where files are wanted in a machine, it is most often one of those. */
final readonly class LatelyBrought
{
    private const DAYS = 7;

    private const RUNS = 100;

    /** @param  array<string, array<string, CarbonImmutable>>  $ended  hypervisor => machine => end of its newest run */
    private function __construct(private array $ended)
    {
    }

    public static function now(): self
    {
        $runs = Run::query()
            ->whereHas('workload', fn ($workload) => $workload->where('kind', Machines::NAME))
            ->where('state', 'done')
            ->where('outcome->right', true)
            ->whereNull('put_back_at')
            ->whereIn('plan->way', array_column(MachineWay::cases(), 'value'))
            ->where('ended_at', '>', now()->subDays(self::DAYS))
            ->orderByDesc('ended_at')
            ->limit(self::RUNS)
            ->get(['id', 'plan', 'ended_at']);
        $ended = [];
        foreach ($runs as $run) {
            $ended[(string) ($run->plan['on'] ?? '')][(string) $run->plan['machine']] ??= $run->ended_at ?? CarbonImmutable::now();
        }

        return new self($ended);
    }

    /** Null if it did not. */
    public function at(string $hypervisor, string $machine): ?CarbonImmutable
    {
        return $this->ended[$hypervisor][$machine] ?? null;
    }
}
