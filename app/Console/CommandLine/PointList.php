<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Estate\Points;
use App\Estate\SetOutline;
use Kaiseki\Core\Chain\Demands;
use Kaiseki\Core\Chain\PassedOver;
use Kaiseki\Core\Instant;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class PointList extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('points')->setDescription('Lists the points of a workload, oldest first')
            ->addArgument('name', InputArgument::REQUIRED, 'the workload')
            ->addOption('at', null, InputOption::VALUE_REQUIRED, 'also choose the point for this moment')
            ->addOption('demand', null, InputOption::VALUE_REQUIRED, 'what that point must be: of consistent, clear, checked, site=NAME, within=SPAN; or none', 'consistent,clear');
    }

    protected function carryOut(InputInterface $input): int
    {
        $points = new Points($this->workload($input));
        $demands = Demands::parse((string) $input->getOption('demand'));
        $document = ['points' => array_map(fn (SetOutline $set): array => [
            'set' => $set->name, 'level' => $set->level->name, 'captured_at' => Instant::of($set->capturedAt())->iso(),
            'usable' => $points->usable($set), 'because' => $points->because($set), 'base' => $points->sets[$set->base ?? 0]->name ?? null, 'base_assumed' => $points->graph->restsOnAssumed($set->name),
        ], array_values($points->sets))];
        $found = null;
        if ($input->getOption('at') !== null) {
            $found = $points->find(Instant::parse((string) $input->getOption('at')), $demands);
            $document['chosen'] = $found->set?->id;
            $document['passed_over'] = array_map(fn (PassedOver $over): array => ['set' => $over->set->id, 'because' => $over->because], $found->passedOver);
        }
        $this->answer($document, function () use ($document, $found): iterable {
            foreach ($document['points'] as $point) {
                yield sprintf('%s %-44s %-5s %-20s %-5s %s', $point['set'] === ($document['chosen'] ?? '') ? '>' : ' ', $point['set'], $point['level'], $point['captured_at'], $point['usable'],
                    implode('; ', array_filter([$point['because'], $point['base_assumed'] ? 'base assumed' : null])));
            }
            foreach ($found->passedOver ?? [] as $over) {
                yield "Passed over: {$over->set->id}: {$over->because}.";
            }
            if ($found !== null && $found->set === null) {
                yield 'There is no usable point at or before that moment.';
            }
        });

        return $found !== null && $found->set === null ? self::BLOCKED : self::DONE;
    }
}
