<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Console\CommandLine\NoServer;
use App\Kinds\Machines\Home\Substitute;
use App\Kinds\Machines\Hypervisors\Answer;
use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Kinds\Machines\Hypervisors\Turn;
use App\Kinds\Machines\Machines;
use App\Kinds\Machines\Order\CannotBring;
use App\Models\TrailEntry;
use App\Models\Workload;
use App\Words;
use InvalidArgumentException;
use Kaiseki\Core\Hypervisor\HypervisorFailure;
use Kaiseki\Core\Hypervisor\MachineSeen;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class MachineCommand extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('machine')
            ->setDescription('Lists, shows, starts and stops machines at the hypervisors that are known, or says which a workload is')
            ->addArgument('what', InputArgument::REQUIRED, 'list, show, start, stop, or known')
            ->addArgument('machine', InputArgument::OPTIONAL, 'its name')
            ->addOption('on', null, InputOption::VALUE_REQUIRED, 'the hypervisor; needed where several have a machine of that name')
            ->addOption('as', null, InputOption::VALUE_REQUIRED, 'with "known": the workload that it is')
            ->addOption(
                'asked',
                null,
                InputOption::VALUE_REQUIRED,
                'with "known": the page that it is asked for once it was started: /PATH',
            )
            ->addOption(
                'answers',
                null,
                InputOption::VALUE_REQUIRED | InputOption::VALUE_IS_ARRAY,
                'with "asked": a file of its own, as browse lists them, whose content the answer holds',
            )
            ->addOption('at-once', null, InputOption::VALUE_NONE, 'stop it as if its power were cut');
    }

    protected function changes(InputInterface $input): bool
    {
        return in_array($input->getArgument('what'), ['start', 'stop', 'known'], true);
    }

    protected function carryOut(InputInterface $input): int
    {
        try {
            if (in_array($input->getArgument('what'), ['start', 'stop'], true)) {
                return $this->turn($input, ...self::found($input));
            }
            match ($input->getArgument('what')) {
                'list' => $this->list($input),
                'show' => $this->show(...self::found($input)),
                'known' => $this->known($input, ...self::found($input)),
                default => throw new InvalidArgumentException('It is "machine list", "machine show NAME", "start", "stop" or "known".'),
            };
        } catch (HypervisorFailure $failure) {
            throw $failure->isSilent
                ? new NoServer($failure->getMessage())
                : new InvalidArgumentException(ucfirst($failure->getMessage()).'.');
        }

        return self::DONE;
    }

    /** @return iterable<HypervisorHost> */
    private static function hosts(InputInterface $input): iterable
    {
        $on = $input->getOption('on');
        $hosts = HypervisorHost::query()->orderBy('name')->get();
        if ($on !== null && ! $hosts->contains('name', $on)) {
            throw new InvalidArgumentException("There is no hypervisor \"$on\"; \"hypervisor list\" shows those there are.");
        }

        return $hosts->filter(fn (HypervisorHost $host): bool => $on === null || $host->name === $on);
    }

    /** @return array{HypervisorHost, MachineSeen} */
    private static function found(InputInterface $input): array
    {
        $name = (string) ($input->getArgument('machine') ?? throw new InvalidArgumentException('Name the machine.'));
        $found = [];
        foreach (self::hosts($input) as $host) {
            $machine = $host->open()->machine($name);
            $machine === null || ($found[] = [$host, $machine]);
        }

        return match (count($found)) {
            1 => $found[0],
            0 => throw new InvalidArgumentException("There is no machine \"$name\"; \"machine list\" shows those there are."),
            default => throw new InvalidArgumentException(
                "Several have a machine $name. Say with --on which: ".
                    implode(', ', array_map(fn (array $one): string => $one[0]->name, $found)),
            ),
        };
    }

    private function list(InputInterface $input): void
    {
        $all = $lines = $silent = [];
        foreach (self::hosts($input) as $host) {
            $host->lookIfItAnswers();
            if ($host->silent !== null) {
                $silent[] = $host->name;
                $lines[] = $host->silent;
            }
            foreach ($host->silent === null ? $host->lastSeen()->machines ?? [] : [] as $name => $machine) {
                $all[] = [
                    'on' => $host->name,
                    'machine' => $name,
                    'runs' => $machine->isRunning(),
                    'protected_as' => self::names($host, $name),
                ];
                $lines[] =
                    "{$host->name}  $name  ".
                    ($machine->isRunning() ? 'runs' : 'off').
                    '  '.
                    (implode(', ', self::names($host, $name)) ?: 'not protected');
            }
        }
        $all !== [] || $silent === [] || throw new NoServer(implode('; ', $lines));
        $document = ['machines' => $all, 'silent' => $silent];
        $this->answer($document, fn (): array => $lines === [] ? ['No machine is there.'] : $lines);
    }

    /** @return list<string> the workloads that it is */
    private static function names(HypervisorHost $host, string $machine): array
    {
        return array_map(fn (Workload $workload): string => $workload->name, $host->workloads($machine));
    }

    private function show(HypervisorHost $host, MachineSeen $machine): void
    {
        $name = $machine->settings->name;
        $words =
            [
                'at' => $host->name,
                'state' => $machine->isRunning() ? 'runs since '.gmdate('Y-m-d H:i', (int) $machine->since).' UTC' : 'off',
            ] + ['answers at' => $machine->address ?? 'no address'] +
            $machine->settings->words();
        foreach ($machine->storages as $disk => $storage) {
            $words["disk $disk"] = "on $storage, ".Words::size($machine->held[$disk] ?? 0).' there';
        }
        $this->answer(
            ['on' => $host->name, 'protected_as' => self::names($host, $name)] + $machine->toArray(),
            fn (): array => array_map(fn (string $what, string $is): string => sprintf('%-14s %s', $what, $is), array_keys($words), $words),
        );
    }

    private function turn(InputInterface $input, HypervisorHost $host, MachineSeen $machine): int
    {
        $name = $machine->settings->name;
        $turn = match (true) {
            $input->getArgument('what') === 'start' => Turn::Start,
            (bool) $input->getOption('at-once') => Turn::Cut,
            default => Turn::Stop,
        };
        try {
            $turn === Turn::Start && Substitute::refuseBeside($host, $name);
        } catch (CannotBring $beside) {
            return $this->blocked($beside->getMessage());
        }
        $hypervisor = $host->open();
        $turn->carryOut($hypervisor, $name);
        $done = $turn->done($name, $host->name);
        TrailEntry::add($done, null, null);
        $host->look();
        $this->answer(
            ['on' => $host->name, 'machine' => $name, 'runs' => $hypervisor->machine($name)?->isRunning()],
            fn (): array => [$done],
        );

        return self::DONE;
    }

    private static function answerSaid(InputInterface $input): ?Answer
    {
        $asked = $input->getOption('asked');
        $files = array_values(array_map(strval(...), (array) $input->getOption('answers')));
        if ($asked === null) {
            return $files === [] ? null : throw new InvalidArgumentException('Say with --asked for which page it is asked.');
        }
        if (preg_match('#^/[A-Za-z0-9/._~?=&%-]{0,199}$#D', (string) $asked) !== 1 || $files === []) {
            throw new InvalidArgumentException('--asked is the path of a page, from its slash on, and with it go --answers=/VOLUME/FILE.');
        }

        return new Answer((string) $asked, $files);
    }

    private function known(InputInterface $input, HypervisorHost $host, MachineSeen $machine): void
    {
        $as = (string) ($input->getOption('as') ?? throw new InvalidArgumentException('Say with --as which workload it is.'));
        $workload = Workload::query()->where('name', $as)->first();
        if ($workload?->kind !== Machines::NAME) {
            throw new InvalidArgumentException($workload === null ? "There is no workload named \"$as\"." : "$as is no machine.");
        }
        $name = $machine->settings->name;
        $host->holds($workload, $name, self::answerSaid($input));
        $host->look();
        $done = "$as is the machine $name at {$host->name}.";
        TrailEntry::add($done, null, null, workload: $workload);
        $this->answer(['workload' => $as, 'on' => $host->name, 'machine' => $name], fn (): array => [$done]);
    }
}
