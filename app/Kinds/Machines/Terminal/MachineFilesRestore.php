<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Kinds\Machines\Disks\MachineTree;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Order\FilesOrder;
use App\Kinds\Machines\Run\FilesOfMachine;
use App\Kinds\Machines\Run\MachineCarrier;
use App\Kinds\Talk;
use App\Kinds\Told;
use App\Kinds\Touched;
use App\Models\Run;
use App\Models\Workload;
use App\Trees\Run\TouchedFolder;
use App\Words;
use InvalidArgumentException;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Files\ConflictRule;
use Kaiseki\Core\Proof\CheckLine;
use Symfony\Component\Console\Input\InputInterface;

/** `restore --path` for a machine: files out of its disks. */
final readonly class MachineFilesRestore
{
    public function __construct(private Workload $workload, private InputInterface $input, private Talk $talk)
    {
    }

    /** @throws InvalidArgumentException|CannotBring */
    public function carryOut(): Told
    {
        $rule = KaisekiCommand::copyRule($this->input);
        [$points, $point] = MachineRestore::point($this->workload, $this->input, $rule);
        [$host, $folder] = MachineRestore::target($this->input);
        $conflict = (string) $this->input->getOption('conflict');
        $paths = array_map(EntryPath::of(...), (array) $this->input->getOption('path'));
        $standing =
            ConflictRule::tryFrom($conflict) ?? throw new InvalidArgumentException("\"$conflict\" is no rule for what stands there.");
        $plan = FilesOrder::plan($point, $this->workload->name, $paths, $host, $folder, $standing, $rule);
        $marked = (new Touched([TouchedFolder::of($host, $folder)]))->marked();
        if ($marked !== [] && $plan->conflict->replaces()) {
            throw CannotBring::because(
                "Replacing anything of {$marked[0]->name} in place waits for a second person; order it on the worksheet of a request.",
            );
        }
        if ($this->input->getOption('dry-run')) {
            $files = FilesOfMachine::read($points, $point, $plan->paths, $rule);
            $told = ['run' => null, 'point' => $point->name, 'order' => $plan->sentence];

            return new Told(
                KaisekiCommand::DONE,
                $told + ['entries' => count($files->items), 'bytes' => $files->bytes],
                fn (): array => [$plan->sentence, 'Nothing was done.'],
            );
        }
        $tree = new MachineTree($points, $point, $rule);
        foreach ($paths as $path) {
            $path === '' || $tree->find($path); // whatever is not there is told before anything begins
        }
        $run = Run::query()->create([
            'workload_id' => $this->workload->id,
            'set_id' => $point->id,
            'state' => 'queued',
            'plan' => ['way' => MachineCarrier::FILES] + $plan->toArray(),
        ]);
        (new MachineCarrier($this->talk->progress(...)))->carryOut($run);

        return $this->told($run->refresh());
    }

    private function told(Run $run): Told
    {
        $outcome = $run->outcome ?? [];
        $run->state === 'done' || $this->talk->say((string) $run->failure);
        $document =
            [
                'run' => $run->id,
                'point' => $run->set_name,
                'state' => $run->state,
                'entries' => $outcome['entries'] ?? 0,
                'files' => $outcome['files'] ?? 0,
                'bytes' => $outcome['bytes'] ?? 0,
                'seconds' => $run->seconds() ?? 0.0,
                'checks' => $outcome['checks'] ?? [],
                'left_out' => $outcome['left_out'] ?? [],
                'differences' => $outcome['differences'] ?? [],
                'losses' => $outcome['losses'] ?? [],
            ] + ($run->failure === null ? [] : ['error' => mb_scrub($run->failure)]);
        $isRight = $run->state === 'done' && ($outcome['right'] ?? false);

        return new Told(
            $isRight ? KaisekiCommand::DONE : KaisekiCommand::NOT_ALL_RIGHT,
            $document,
            fn (): array => $run->state !== 'done'
                ? []
                : [
                    sprintf(
                        'Run %d: %s, %s in %s, from %s.',
                        $run->id,
                        Words::count($outcome['files'], 'file'),
                        Words::size($outcome['bytes']),
                        Words::duration($run->seconds() ?? 0.0),
                        $run->set_name,
                    ),
                    ...array_map(
                        fn (CheckLine $check): string => "  {$check->result}: {$check->check}",
                        CheckLine::all($outcome['checks']),
                    ),
                    ...array_map(fn (array $left): string => "  left out: {$left['path']}: {$left['because']}", $outcome['left_out']),
                    ...$outcome['losses'],
                ],
        );
    }
}
