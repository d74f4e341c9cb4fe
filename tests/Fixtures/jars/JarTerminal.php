<?php

declare(strict_types=1);

namespace Outside\Jars;

use App\Kinds\Talk;
use App\Kinds\Terminal;
use App\Kinds\Told;
use App\Models\Run;
use App\Models\Workload;
use App\Sets\Points;
use Kaiseki\Core\Chain\Demands;
use Kaiseki\Core\Instant;
use Symfony\Component\Console\Command\Command;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class JarTerminal implements Terminal
{
    public function commands(): array
    {
        return [];
    }

    public function takes(): array
    {
        return [];
    }

    public function describe(Command $command): void
    {
        if ($command->getName() === 'restore') {
            // The same words mean other things for other kinds.
            $command
                ->addOption('at', null, InputOption::VALUE_REQUIRED, 'how old the jam may be')
                ->addOption('flat', null, InputOption::VALUE_REQUIRED, 'where the jar is to stand')
                ->addOption('without', null, InputOption::VALUE_REQUIRED | InputOption::VALUE_IS_ARRAY, 'a part that is left out');
        }
    }

    public function restore(Workload $workload, InputInterface $input, Talk $talk): Told
    {
        if ($input->hasOption('jam') && $input->getOption('jam') !== null) {
            file_put_contents((string) $input->getOption('jam'), "jam of {$workload->name}");

            return new Told(0, ['jam' => $workload->name], fn (): array => ['It is in the pot.']);
        }
        $points = new Points($workload);
        $set = $points->modelOf($points->find(Instant::parse((string) $input->getOption('at')), new Demands)->set);
        $parts = $set === null ? [] : $points->sets[$set->id]->parts;
        $without = array_values(
            array_intersect(
                array_flip($parts),
                array_map(fn (string $name): int => array_flip($parts)[$name] ?? -1, $input->getOption('without')),
            ),
        );
        $run = Run::query()->create([
            'workload_id' => $workload->id,
            'set_id' => $set?->id,
            'state' => 'queued',
            'is_whole' => true,
            'plan' => [
                'kind' => 'jars',
                'to' => (string) $input->getOption('flat'),
                'sentence' => "Open {$set?->name}.",
                'without' => $without,
            ],
        ]);
        (new JarCarrier)->carryOut($run);

        return new Told(
            $run->refresh()->state === 'done' ? 0 : 4,
            ['run' => $run->id, 'point' => $set?->name, 'error' => $run->failure],
            fn (): array => ['The jar is open.'],
        );
    }

    public function handSheet(Workload $workload, InputInterface $input): array
    {
        return ['', ['cp']];
    }

    public function sourceSaid(InputInterface $input, string $name, ?Workload $known): ?Workload
    {
        return null;
    }
}
