<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Console\CommandLine\NoServer;
use App\Kinds\Machines\Disks\MachineTree;
use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Kinds\Machines\Hypervisors\TouchedMachine;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Order\IntoOrder;
use App\Kinds\Machines\Run\MachineCarrier;
use App\Kinds\Talk;
use App\Kinds\Told;
use App\Models\Run;
use App\Models\Workload;
use App\Words;
use InvalidArgumentException;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Files\ConflictRule;
use Kaiseki\Core\Hypervisor\HypervisorFailure;
use Kaiseki\Core\Hypervisor\MachineSeen;
use Kaiseki\Core\Proof\CheckLine;
use Symfony\Component\Console\Input\InputInterface;

/** `restore --path --into` for a machine: files out of a point into a machine, off or running. */
final readonly class IntoRestore
{
    public function __construct(private Workload $workload, private InputInterface $input, private Talk $talk)
    {
    }

    /** @throws InvalidArgumentException|CannotBring */
    public function carryOut(): Told
    {
        $rule = KaisekiCommand::copyRule($this->input);
        [$points, $point] = MachineRestore::point($this->workload, $this->input, $rule);
        $order = $this->order();
        $order = $order->withSentence($order->sentenceFor($this->workload->name, $point, 'UTC'));
        $tree = new MachineTree($points, $point, $rule);
        array_map($tree->find(...), $order->paths); // whatever is not there is told before anything begins
        $blockers = $this->blockers($order);
        if ($this->input->getOption('dry-run') || $blockers !== []) {
            $isDry = (bool) $this->input->getOption('dry-run');
            $lines = $isDry ? [$order->sentence, ...$blockers, 'Nothing was done.'] : $blockers;

            return new Told(
                $blockers === [] ? KaisekiCommand::DONE : KaisekiCommand::BLOCKED,
                ['run' => null, 'point' => $point->name, 'order' => $order->sentence, 'blockers' => $blockers] +
                    ($isDry ? [] : ['error' => implode(' ', $blockers)]),
                fn (): array => $lines,
            );
        }
        $run = Run::query()->create([
            'workload_id' => $this->workload->id,
            'set_id' => $point->id,
            'state' => 'queued',
            'plan' => $order->toArray(),
        ]);
        (new MachineCarrier($this->talk->progress(...)))->carryOut($run);

        return $this->told($run->refresh());
    }

    private function order(): IntoOrder
    {
        $input = $this->input;
        $conflict = (string) $input->getOption('conflict');
        $paths = array_map(EntryPath::of(...), (array) $input->getOption('path'));
        if ($paths === [] || in_array('', $paths, true)) {
            throw new InvalidArgumentException('Say with --path which files or folders.');
        }
        $on = (string) ($input->getOption('on') ?? HypervisorHost::of($this->workload)[0]->name ?? '');
        $host = HypervisorHost::query()->where('name', $on)->first() ?? throw new InvalidArgumentException(
            $on === '' ? 'Say with --on at which hypervisor.' : "There is no hypervisor \"$on\".",
        );

        return new IntoOrder(
            $paths,
            $on,
            (string) $input->getOption('into'),
            EntryPath::of((string) $input->getOption('to')),
            ConflictRule::tryFrom($conflict) ?? throw new InvalidArgumentException("\"$conflict\" is no rule for what stands there."),
            gmdate('Y-m-d Hi'),
            KaisekiCommand::copyRule($input),
            isRunning: self::seen($host, (string) $input->getOption('into'))?->isRunning() ?? false,
        );
    }

    /** @return list<string> */
    private function blockers(IntoOrder $order): array
    {
        $marked = TouchedMachine::at($order->host(), $order->machine, true)->marked();
        $second = $marked === []
            ? []
            : ["Changing anything of {$marked[0]->name} in place waits for a second person, and is not done at a terminal."];

        return [...$second, ...$order->blockers(self::seen($order->host(), $order->machine))];
    }

    private static function seen(HypervisorHost $host, string $machine): ?MachineSeen
    {
        try {
            return $host->open()->machine($machine);
        } catch (HypervisorFailure $failure) {
            throw new NoServer($failure->getMessage());
        }
    }

    private function told(Run $run): Told
    {
        $outcome = $run->outcome ?? [];
        $run->state === 'done' || $this->talk->say((string) $run->failure);
        $document = [
            'run' => $run->id,
            'point' => $run->set_name,
            'state' => $run->state,
            'machine' => $run->plan['machine'],
            'on' => $run->plan['on'],
            'files' => $outcome['files'] ?? 0,
            'bytes' => $outcome['bytes'] ?? 0,
            'seconds' => $run->seconds() ?? 0.0,
            'landed_in' => $outcome['landed_in'] ?? null,
            'left_out' => $outcome['left_out'] ?? [],
            'checks' => $outcome['checks'] ?? [],
        ] + ($run->failure === null ? [] : ['error' => mb_scrub($run->failure)]);
        $isRight = $run->state === 'done' && ($outcome['right'] ?? false);

        return new Told($isRight ? KaisekiCommand::DONE : KaisekiCommand::NOT_ALL_RIGHT, $document, fn (): iterable => $isRight ? [
            "Run {$run->id}: ".Words::count($outcome['files'], 'file')." into {$run->plan['machine']} at {$run->plan['on']}, ".
                Words::size($outcome['bytes']).' written'.
                (isset($outcome['landed_in']) ? "; it calls itself {$outcome['landed_in']}." : ' to its disks.'),
            ...array_map(fn (array $left): string => "  left out: {$left['path']}: {$left['because']}", $outcome['left_out']),
            ...array_map(fn (CheckLine $check): string => "  {$check->told()}", CheckLine::all($outcome['checks'])),
        ] : []);
    }
}
