<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Sets\Points;
use App\Sets\SetOutline;
use InvalidArgumentException;
use Kaiseki\Core\Chain\BackupSet;
use Kaiseki\Core\Chain\ChainSheet;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Chain\Demands;
use Kaiseki\Core\Chain\FoundPoint;
use Kaiseki\Core\Chain\PassedOver;
use Kaiseki\Core\Chain\PointFinder;
use Kaiseki\Core\Chain\ReadableChains;
use Kaiseki\Core\Instant;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class PointList extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('points')
            ->setDescription('Lists the points of a workload, oldest first')
            ->addArgument('name', InputArgument::OPTIONAL, 'the workload; none with --sheet')
            ->addOption('at', null, InputOption::VALUE_REQUIRED, 'also choose the point for this moment')
            ->addOption(
                'path',
                null,
                InputOption::VALUE_REQUIRED | InputOption::VALUE_IS_ARRAY,
                'judge the points by this alone (default: everything)',
            )
            ->addOption(
                'sheet',
                null,
                InputOption::VALUE_REQUIRED,
                'the points of the chain described in this JSON file; needs no running instance',
            );
        $this->addDemand();
        $this->addCopyRule();
    }

    protected function needsInstance(InputInterface $input): bool
    {
        return $input->getOption('sheet') === null;
    }

    protected function carryOut(InputInterface $input): int
    {
        $demands = Demands::parse((string) $input->getOption('demand'));
        $at = $input->getOption('at') === null ? null : Instant::parse((string) $input->getOption('at'));
        $rule = self::copyRule($input);
        if ($input->getOption('sheet') !== null) {
            return $this->ofSheet(self::sheet($input), $at, $demands, $rule);
        }
        if ($input->getArgument('name') === null) {
            throw new InvalidArgumentException('Name a workload, or a sheet with --sheet=FILE.');
        }
        $points = new Points($this->workload($input), null, $rule);
        $rule->mustName($points->storeNames());
        $paths = $input->getOption('path') === [] ? null : self::paths($input);
        $finder = $points->finder($paths);
        $rows = array_map(
            fn (SetOutline $set): array => [
                'set' => $set->name,
                'level' => $set->level->name,
                'captured_at' => Instant::of($set->capturedAt())->iso(),
                'history' => $points->historyName($set),
                'usable' => match (true) {
                    $paths === null => $points->usable($set),
                    $finder->blocks($set->set, Demands::none()) === null => 'whole',
                    default => 'part',
                },
                'because' => $paths === null ? $points->because($set) : $finder->blocks($set->set, Demands::none()),
                'base' => $points->sets[$set->base ?? 0]->name ?? null,
                'base_assumed' => $points->graph->restsOnAssumed($set->name),
            ],
            array_values($points->sets),
        );

        return $this->tell($rows, $at === null ? null : $finder->find($at, $demands));
    }

    private function ofSheet(ChainSheet $sheet, ?Instant $at, Demands $demands, CopyRule $rule): int
    {
        $rule->mustName($sheet->storeNames());
        $chains = new ReadableChains($sheet->graph, $rule);
        $rows = array_map(
            fn (BackupSet $set): array => [
                'set' => $set->id,
                'level' => $set->level->name,
                'captured_at' => $set->capturedAt->iso(),
                'history' => $set->history,
                'usable' => $chains->because($set) === null ? 'whole' : 'no',
                'because' => $chains->because($set),
                'base' => $sheet->graph->baseOf($set->id),
                'base_assumed' => $sheet->graph->restsOnAssumed($set->id),
            ],
            $sheet->graph->sets(),
        );

        return $this->tell(
            $rows,
            $at === null ? null : PointFinder::bySets($sheet->graph, $sheet->route()->sites(), $rule)->find($at, $demands),
        );
    }

    /**
     * @param  list<array{set: string, level: string, captured_at: string, history: string, usable: string, because: ?string,
     *     base: ?string, base_assumed: bool}>  $rows
     */
    private function tell(array $rows, ?FoundPoint $found): int
    {
        $document = ['points' => $rows];
        if ($found !== null) {
            $document['chosen'] = $found->set?->id;
            $document['passed_over'] = array_map(
                fn (PassedOver $over): array => ['set' => $over->set->id, 'because' => $over->because],
                $found->passedOver,
            );
            $document['alternatives'] = ['before' => $found->before?->id, 'after' => $found->after?->id];
        }
        $this->answer($document, function () use ($rows, $found): iterable {
            foreach ($rows as $point) {
                yield sprintf(
                    '%s %-44s %-8s %-20s %-5s %s',
                    $point['set'] === $found?->set?->id ? '>' : ' ',
                    $point['set'],
                    $point['level'],
                    $point['captured_at'],
                    $point['usable'],
                    implode('; ', array_filter([$point['because'], $point['base_assumed'] ? 'base assumed' : null])),
                );
            }
            foreach ($found->passedOver ?? [] as $over) {
                yield "Passed over: {$over->set->id}: {$over->because}.";
            }
            if ($found !== null && $found->set === null) {
                yield 'There is no usable point at or before that moment'.
                    ($found->after === null ? '.' : "; the nearest after it is {$found->after->id}.");
            }
        });

        return $found !== null && $found->set === null ? self::BLOCKED : self::DONE;
    }
}
