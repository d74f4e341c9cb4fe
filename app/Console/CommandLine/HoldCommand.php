<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Care\Holds;
use App\Models\Hold;
use App\Words;
use InvalidArgumentException;
use Kaiseki\Core\Instant;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class HoldCommand extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('hold')
            ->setDescription('Keeps a set, and all it rests on, from expiring. Without a set: lists what is held')
            ->addArgument('name', InputArgument::REQUIRED, 'the workload')
            ->addArgument('set', InputArgument::OPTIONAL)
            ->addOption('reason', null, InputOption::VALUE_REQUIRED, '', '')
            ->addOption('until', null, InputOption::VALUE_REQUIRED, 'a moment; without it until it is lifted')
            ->addOption('lift', null, InputOption::VALUE_NONE, 'lifts the holds of the set');
    }

    protected function changes(InputInterface $input): bool
    {
        return true;
    }

    protected function carryOut(InputInterface $input): int
    {
        $workload = $this->workload($input);
        $holds = new Holds;
        $copied = 0;
        if ($input->getArgument('set') !== null) {
            $set = self::knownSet($workload, (string) $input->getArgument('set'));
            if ($input->getOption('lift')) {
                self::refuseMarked($workload, 'lifting a hold');
                $own = Hold::ofWorkload($workload)->where('set_id', $set->id)->whereNull('request_id')->get();
                if ($own->isEmpty()) {
                    throw new InvalidArgumentException("{$set->name} is not held by anybody.");
                }
                $own->each(fn (Hold $hold) => $holds->lift($hold, null));
            } else {
                $until = $input->getOption('until');
                [, $copied] = $holds->put(
                    $set,
                    (string) $input->getOption('reason'),
                    $until === null ? null : Instant::parse((string) $until)->in(),
                    null,
                );
            }
        }
        $rows = Hold::ofWorkload($workload)
            ->with('set')
            ->orderBy('id')
            ->get()
            ->map(
                fn (Hold $hold): array => [
                    'set' => $hold->set->name,
                    'reason' => $hold->reason,
                    'until' => $hold->until?->format('Y-m-d\TH:i:s\Z'),
                    'request' => $hold->request_id,
                ],
            )
            ->all();
        $this->answer(['holds' => $rows, 'copied' => $copied], function () use ($rows, $copied): iterable {
            if ($copied > 0) {
                yield Words::count($copied, 'set').' copied to a store of ours for that.';
            }
            foreach ($rows as $row) {
                yield "{$row['set']}: {$row['reason']}".($row['until'] === null ? '' : " until {$row['until']}");
            }
            if ($rows === []) {
                yield 'Nothing is held.';
            }
        });

        return self::DONE;
    }
}
