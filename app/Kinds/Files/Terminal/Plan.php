<?php

declare(strict_types=1);

namespace App\Kinds\Files\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Sets\Points;
use App\Trees\Places\PlanOfReading;
use App\Words;
use DateTimeImmutable;
use InvalidArgumentException;
use Kaiseki\Core\Chain\BackupSet as ChainSet;
use Kaiseki\Core\Chain\Chain;
use Kaiseki\Core\Chain\CopyChooser;
use Kaiseki\Core\Chain\Demands;
use Kaiseki\Core\Chain\FoundPoint;
use Kaiseki\Core\Chain\PassedOver;
use Kaiseki\Core\Chain\PointFinder;
use Kaiseki\Core\Chain\Reading;
use Kaiseki\Core\Chain\ReadingList;
use Kaiseki\Core\Instant;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class Plan extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('plan')
            ->setDescription('Chooses the point for a moment, and says what must be read from where')
            ->addArgument('name', InputArgument::OPTIONAL, 'the workload; none with --sheet')
            ->addOption('at', null, InputOption::VALUE_REQUIRED, 'the wanted moment')
            ->addOption('path', null, InputOption::VALUE_REQUIRED | InputOption::VALUE_IS_ARRAY, 'what is wanted (default: everything)')
            ->addOption('site', null, InputOption::VALUE_REQUIRED, 'the site of the target')
            ->addOption(
                'sheet',
                null,
                InputOption::VALUE_REQUIRED,
                'plan for the chain described in this JSON file; needs no running instance',
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
        $at = Instant::parse(
            (string) ($input->getOption('at') ??
                throw new InvalidArgumentException('Say with --at which moment is wanted, such as 2026-11-12T19:30:00+01:00.')),
        );
        $demands = Demands::parse((string) $input->getOption('demand'));
        $site = $input->getOption('site');
        $rule = self::copyRule($input);
        if ($input->getOption('sheet') !== null) {
            $sheet = self::sheet($input);
            $route = $sheet->route($site);
            $rule->mustName($sheet->storeNames());
            $found = PointFinder::bySets($sheet->graph, $route->sites(), $rule)->find($at, $demands);
            $chain = $found->set === null ? null : $sheet->graph->chainOf($found->set->id);
            $list =
                $chain instanceof Chain
                    ? CopyChooser::choose(array_map(fn (ChainSet $set): array => [$set, $set->bytes], $chain->sets), $route, $rule)
                    : null;

            return $this->tell($at, $found, $list, $chain instanceof Chain && $chain->baseAssumed, null);
        }
        if ($input->getArgument('name') === null) {
            throw new InvalidArgumentException('Name a workload, or a sheet with --sheet=FILE.');
        }
        $points = new Points($this->workload($input), null, $rule);
        $rule->mustName($points->storeNames());
        $paths = self::paths($input);
        $found = $points->find($at, $demands, $paths === [''] ? null : $paths);
        $point = $points->modelOf($found->set);
        if ($point === null) {
            return $this->tell($at, $found, null, false, null);
        }
        foreach ($paths as $path) {
            Selected::mustBeThere($points->workload, $point, $path);
        }
        $plan = PlanOfReading::for($points, $point, $paths, $site, $rule);

        return $this->tell($at, $found, $plan->list, $points->graph->restsOnAssumed($point->name), $plan);
    }

    private function tell(Instant $wanted, FoundPoint $found, ?ReadingList $list, bool $baseAssumed, ?PlanOfReading $plan): int
    {
        $document = self::document($wanted, $found, $list, $baseAssumed) + self::expected($plan);
        $this->answer($document, fn (): array => [...self::pointInWords($document), ...self::readingInWords($list)]);

        return $found->set === null ? self::BLOCKED : self::DONE;
    }

    /** @return array<string, mixed> */
    private static function document(Instant $wanted, FoundPoint $found, ?ReadingList $list, bool $baseAssumed): array
    {
        return [
            'point' => $found->set?->id,
            'captured_at' => $found->at?->iso(),
            'loss_seconds' => $found->at?->secondsUntil($wanted),
            'reading_list' => array_map(
                fn (Reading $reading): array => [
                    'set' => $reading->set->id,
                    'store' => $reading->copy->store,
                    'medium' => match (count($reading->copy->media)) {
                        0 => $reading->copy->store,
                        1 => $reading->copy->media[0],
                        default => $reading->copy->media,
                    },
                    'bytes' => $reading->bytes,
                    'seconds' => $reading->seconds,
                ],
                $list->readings ?? [],
            ),
            'setup_seconds' => $list?->setupSeconds,
            'total_seconds' => $list?->totalSeconds,
            'exact' => $list?->exact,
            'base_assumed' => $baseAssumed,
            'passed_over' => array_map(
                fn (PassedOver $over): array => ['set' => $over->set->id, 'because' => $over->because],
                $found->passedOver,
            ),
            'alternatives' => ['before' => $found->before?->id, 'after' => $found->after?->id],
            'remarks' => self::remarks($wanted, $found),
        ];
    }

    /** @return array<string, mixed> */
    private static function expected(?PlanOfReading $plan): array
    {
        return $plan === null ? [] : [
            'entries' => $plan->entries,
            'bytes' => $plan->bytes,
            'estimate_seconds' => [
                'likely' => $plan->estimate->whole->likely,
                'least' => $plan->estimate->whole->least,
                'most' => $plan->estimate->whole->most,
            ],
            'to_fetch' => $plan->estimate->toFetch,
        ];
    }

    /**
     * @param  array<string, mixed>  $document
     * @return list<string>
     */
    private static function pointInWords(array $document): array
    {
        $assumed = $document['base_assumed'] ? ' (base assumed)' : '';

        return [
            $document['point'] === null
                ? 'There is no usable point at or before that moment.'
                : "{$document['point']}, captured {$document['captured_at']}; lost: ".
                    Words::duration($document['loss_seconds']).
                    " before the wanted moment$assumed",
            ...array_map(fn (string $remark): string => "  $remark", $document['remarks']),
            ...array_map(fn (array $over): string => "  passed over {$over['set']}: {$over['because']}", $document['passed_over']),
        ];
    }

    /** @return list<string> */
    private static function readingInWords(?ReadingList $list): array
    {
        if ($list === null) {
            return [];
        }
        $lines = [];
        foreach ($list->readings as $i => $reading) {
            $lines[] = sprintf(
                '  %d. %s from %s, %s, %s',
                $i + 1,
                $reading->set->id,
                $reading->copy->store,
                Words::size($reading->bytes),
                Words::duration($reading->seconds),
            );
        }
        $lines[] = sprintf(
            '  together %s, of which %s set-up%s',
            Words::duration($list->totalSeconds),
            Words::duration($list->setupSeconds),
            $list->exact ? '' : ' (a good plan, not proven the best)',
        );

        return $lines;
    }

    /** @return list<string> what is odd about the moment */
    private static function remarks(Instant $wanted, FoundPoint $found): array
    {
        return array_values(
            array_filter([
                $wanted->isAfter(Instant::of(new DateTimeImmutable))
                    ? 'That moment is in the future'.($found->set === null ? '.' : '; the newest good point is taken.')
                    : null,
                $found->set === null && $found->passedOver === []
                    ? 'That moment is before the first point'.
                        ($found->after === null
                            ? '.'
                            : "; the nearest after it is {$found->after->id} of {$found->after->capturedAt->iso()}.")
                    : null,
            ]),
        );
    }
}
