<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Kinds\Machines\Annex\Annex;
use App\Kinds\Machines\Home\Substitute;
use App\Kinds\Machines\Standing\Following;
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
        $this->setName('standing')
            ->setDescription('Lists the machines that run off their sets, follow them, or stand in for others, until somebody decides');
    }

    protected function changes(InputInterface $input): bool
    {
        return false;
    }

    protected function carryOut(InputInterface $input): int
    {
        $told = Standing::now()->map(self::told(...))->values()->all();
        $following = Following::now()->map(self::follows(...))->values()->all();
        $substitutes = Substitute::now()->map(self::standsIn(...))->values()->all();
        $lines = fn (): array => [...self::lines($told), ...self::linesOf($following), ...self::linesIn($substitutes)];
        $none = ['Nothing stands on its sets, nothing follows, and nothing stands in.'];
        $document = ['standing' => $told, 'following' => $following, 'standing_in' => $substitutes];
        $this->answer($document, fn (): array => $lines() ?: $none);

        return self::DONE;
    }

    /**
     * @param  list<array<string, mixed>>  $told
     * @return list<string>
     */
    private static function lines(array $told): array
    {
        return array_map(
            fn (array $one): string => "run {$one['run']}  {$one['machine']} at {$one['on']}  since {$one['since']}".
                ($one['until'] === null ? '' : "  until {$one['until']}").
                ($one['annex'] === null ? '' : "  in the annex {$one['annex']}").
                ($one['settled_by'] === null ? '' : "  run {$one['settled_by']} settles it").
                '  '.Words::size($one['bytes_read']).' read'.
                ($one['served'] ? '' : '  NOBODY SERVES ITS DISKS'),
            $told,
        );
    }

    /**
     * @param  list<array<string, mixed>>  $following
     * @return list<string>
     */
    private static function linesOf(array $following): array
    {
        return array_map(
            fn (array $one): string => "run {$one['run']}  {$one['machine']} at {$one['on']}  follows every {$one['minutes']} min  ".
                ($one['lag_seconds'] === null ? 'at a set that is gone' : Words::duration($one['lag_seconds']).' behind').
                ($one['because'] === null ? '' : "  cannot go on: {$one['because']}"),
            $following,
        );
    }

    /** @return array<string, mixed> */
    private static function standsIn(Substitute $substitute): array
    {
        return [
            'run' => $substitute->run_id,
            'workload' => $substitute->workload->name,
            'machine' => $substitute->machine,
            'on' => $substitute->hypervisor->name,
            'since' => $substitute->created_at->utc()->format('Y-m-d\TH:i:s\Z'),
            'for' => $substitute->home_machine,
            'home' => $substitute->home->name,
            'original_runs' => $substitute->originalRuns(),
            'home_at' => $substitute->home_at?->utc()->format('Y-m-d\TH:i:s\Z'),
            'home_run' => $substitute->isGoingHome() ? $substitute->home_run_id : null,
        ];
    }

    /**
     * @param  list<array<string, mixed>>  $substitutes
     * @return list<string>
     */
    private static function linesIn(array $substitutes): array
    {
        return array_map(
            fn (array $one): string => "run {$one['run']}  {$one['machine']} at {$one['on']}  stands in for {$one['for']} at ".
                "{$one['home']}  since {$one['since']}".
                ($one['original_runs'] === true ? '  WHICH RUNS AGAIN: SHUT ONE OF THEM DOWN' : '').
                ($one['home_run'] === null ? '' : "  run {$one['home_run']} brings it home").
                ($one['home_at'] === null ? '' : "  goes home {$one['home_at']}"),
            $substitutes,
        );
    }

    /** @return array<string, mixed> */
    private static function follows(Following $following): array
    {
        return [
            'run' => $following->run_id,
            'workload' => $following->run->workload->name,
            'machine' => $following->machine,
            'on' => $following->hypervisor->name,
            'minutes' => $following->minutes,
            'at' => $following->set?->name,
            'lag_seconds' => $following->lag(),
            'step' => $following->step_id,
            'because' => $following->because,
        ];
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
            'annex' => Annex::around($standing->run)?->name,
            'settled_by' => $standing->isBeingSettled() ? $standing->settled_by : null,
            'settle_at' => $standing->settle_at?->utc()->format('Y-m-d\TH:i:s\Z'),
            'served' => $served->isServed(),
            'bytes_read' => $served->state()->bytes,
            'refused' => $served->state()->refused,
            'refused_last' => $served->state()->why,
        ];
    }
}
