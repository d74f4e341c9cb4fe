<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Kinds\Machines\Standing\ServedDisks;
use App\Kinds\Machines\Standing\Standing;
use App\Words;
use Symfony\Component\Console\Input\InputInterface;

/** What stands on its sets now. */
final class StandingCommand extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('standing')->setDescription('Lists the machines that run off their sets, and are neither settled nor dropped yet');
    }

    protected function changes(InputInterface $input): bool
    {
        return false;
    }

    protected function carryOut(InputInterface $input): int
    {
        $told = Standing::now()->map(self::told(...))->values()->all();
        $this->answer(['standing' => $told], fn (): array => $told === [] ? ['Nothing stands on its sets.'] : array_map(
            fn (array $one): string => "run {$one['run']}  {$one['machine']} at {$one['on']}  since {$one['since']}".
                ($one['until'] === null ? '' : "  until {$one['until']}").
                ($one['settled_by'] === null ? '' : "  run {$one['settled_by']} settles it").
                '  '.Words::size($one['bytes_read']).' read'.
                ($one['served'] ? '' : '  NOBODY SERVES ITS DISKS'),
            $told,
        ));

        return self::DONE;
    }

    /** @return array<string, mixed> */
    private static function told(Standing $standing): array
    {
        $served = ServedDisks::of($standing->run);

        return [
            'run' => $standing->run_id,
            'workload' => $standing->run->workload->name,
            'point' => $standing->run->set_name,
            'machine' => $standing->machine,
            'on' => $standing->hypervisor->name,
            'since' => $standing->created_at->utc()->format('Y-m-d\TH:i:s\Z'),
            'until' => $standing->until?->utc()->format('Y-m-d\TH:i:s\Z'),
            'overdue' => $standing->isOverdue(),
            'settled_by' => $standing->isBeingSettled() ? $standing->settled_by : null,
            'settle_at' => $standing->settle_at?->utc()->format('Y-m-d\TH:i:s\Z'),
            'served' => $served->isServed(),
            'bytes_read' => $served->state()->bytes,
            'refused' => $served->state()->refused,
            'refused_last' => $served->state()->why,
        ];
    }
}
