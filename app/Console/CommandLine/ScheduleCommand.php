<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Care\Schedules;
use App\Models\Schedule;
use InvalidArgumentException;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class ScheduleCommand extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('schedule')
            ->setDescription('Says when sets of a workload are made, or (with --group) of what is new in a group. Without times: shows it')
            ->addArgument('name', InputArgument::OPTIONAL, 'the workload')
            ->addOption('group', null, InputOption::VALUE_REQUIRED, 'the rule for new sources of this group')
            ->addOption(
                'cron',
                null,
                InputOption::VALUE_REQUIRED | InputOption::VALUE_IS_ARRAY,
                'a time as in crontab(5) and a level: "0 2 * * 0=full"',
            )
            ->addOption('store', null, InputOption::VALUE_REQUIRED, 'where sets are made', 'boathouse')
            ->addOption('copy-to', null, InputOption::VALUE_REQUIRED | InputOption::VALUE_IS_ARRAY, 'a store they are copied to after that')
            ->addOption('copy-from', null, InputOption::VALUE_REQUIRED, 'HH:MM before which no copy is made')
            ->addOption('hours', null, InputOption::VALUE_REQUIRED, 'HH:MM-HH:MM outside of which nothing begins')
            ->addOption('zone', null, InputOption::VALUE_REQUIRED, 'of all these times', 'UTC')
            ->addOption(
                'before',
                null,
                InputOption::VALUE_REQUIRED,
                'a command that brings the source to rest, as a JSON list of arguments',
            )
            ->addOption('after', null, InputOption::VALUE_REQUIRED, 'a command that lets it go on, likewise')
            ->addOption('limit', null, InputOption::VALUE_REQUIRED, 'seconds after which either is ended', '60')
            ->addOption('off', null, InputOption::VALUE_NONE, 'keeps it, but makes nothing');
    }

    protected function changes(InputInterface $input): bool
    {
        return true;
    }

    protected function carryOut(InputInterface $input): int
    {
        $group = $input->getOption('group');
        if (($input->getArgument('name') === null) === ($group === null)) {
            throw new InvalidArgumentException('Name a workload, or a group with --group.');
        }
        $of = $group === null ? ['workload_id' => $this->workload($input)->id] : ['group' => (string) $group];
        /** @var list<string> $times */
        $times = $input->getOption('cron');
        if ($times !== []) {
            $this->set($input, $of, $times);
        } elseif ($input->getOption('off')) {
            Schedule::query()
                ->where($of)
                ->update(['on' => false]);
        }
        $schedule = Schedule::query()->with('store')->where($of)->first();
        $next = $schedule?->next()?->format('Y-m-d\TH:i:s\Z');
        $this->answer(
            $schedule === null
                ? ['schedule' => null]
                : [
                    'schedule' => [
                        'times' => $schedule->times,
                        'store' => $schedule->store->name,
                        'copy_to' => $schedule->copy_to ?? [],
                        'zone' => $schedule->zone,
                        'on' => $schedule->on,
                    ],
                    'next' => $next,
                ],
            fn (): array => $schedule === null
                ? ['There is no schedule.']
                : [
                    ...array_map(
                        fn (array $time): string => "{$time[0]} ({$schedule->zone}): {$time[1]} to {$schedule->store->name}",
                        $schedule->times,
                    ),
                    $schedule->on ? 'Next: '.($next ?? 'never') : 'It is off.',
                ],
        );

        return self::DONE;
    }

    /**
     * @param  array<string, int|string>  $of
     * @param  list<string>  $times
     */
    private function set(InputInterface $input, array $of, array $times): void
    {
        /** @var list<string> $copyTo */
        $copyTo = $input->getOption('copy-to');
        $text = fn (string $name): ?string => $input->getOption($name) === null ? null : (string) $input->getOption($name);
        Schedules::settle(
            $of,
            self::knownStore((string) $input->getOption('store')),
            $times,
            (string) $input->getOption('zone'),
            $text('hours'),
            array_map(fn (string $name): string => self::knownStore($name)->name, $copyTo),
            $text('copy-from'),
            self::command($input->getOption('before')),
            self::command($input->getOption('after')),
            max(1, (int) $input->getOption('limit')),
            ! $input->getOption('off'),
        );
    }
}
