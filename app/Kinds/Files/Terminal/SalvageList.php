<?php

declare(strict_types=1);

namespace App\Kinds\Files\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Sets\CannotPlan;
use App\Sets\Points;
use App\Sets\SetOutline;
use App\Trees\Places\BestEntry;
use App\Trees\Places\BestTree;
use App\Trees\Run\PathInJson;
use App\Words;
use InvalidArgumentException;
use Kaiseki\Core\Chain\Demands;
use Kaiseki\Core\Instant;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class SalvageList extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('salvage')
            ->setDescription('Lists the best tree that all points together still give: what is whole, older, or lost')
            ->addArgument('name', InputArgument::REQUIRED, 'the workload')
            ->addOption('at', null, InputOption::VALUE_REQUIRED, 'as of the newest point at or before this moment')
            ->addOption('point', null, InputOption::VALUE_REQUIRED, 'as of the point of this very set')
            ->addOption('path', null, InputOption::VALUE_REQUIRED | InputOption::VALUE_IS_ARRAY, 'only at and below');
        $this->addDemand();
    }

    protected function carryOut(InputInterface $input): int
    {
        $points = new Points($this->workload($input));
        $best = BestTree::of(
            $points,
            self::point($input, $points),
            self::paths($input),
            Demands::parse((string) $input->getOption('demand'))->clear,
        );
        $this->answer(['point' => $best->at->name] + self::rows($best), function () use ($best): iterable {
            yield sprintf(
                'As of %s: %s as they are there, %d from an earlier point, %d that vanished given back, %d lost.',
                $best->at->name,
                Words::count($best->unchanged, 'file'),
                $best->count('older'),
                $best->count('returned'),
                $best->count('lost'),
            );
            foreach ($best->entries as $entry) {
                yield "  {$entry->state}: /{$entry->path}: {$entry->because}".
                    ($entry->from === null ? '' : "; from {$entry->from->name}");
            }
        });

        return $best->count('lost') === 0 ? self::DONE : self::NOT_ALL_RIGHT;
    }

    /** The set named, or the newest at or before the moment, whatever is wrong with it. */
    public static function point(InputInterface $input, Points $points): SetOutline
    {
        [$named, $at] = [$input->getOption('point'), $input->getOption('at')];
        if (($named === null) === ($at === null)) {
            throw new InvalidArgumentException('Say which point: with --at=MOMENT or with --point=SET.');
        }
        if ($named !== null) {
            return $points->set((string) $named) ??
                throw new InvalidArgumentException("There is no set named \"$named\" of {$points->workload->name}.");
        }

        return $points->lastBefore(Instant::parse((string) $at)) ?? throw CannotPlan::because('there is no point at or before that moment');
    }

    /** @return array<string, mixed> */
    public static function rows(BestTree $best): array
    {
        return [
            'whole' => $best->unchanged,
            'older' => $best->count('older'),
            'returned' => $best->count('returned'),
            'lost' => $best->count('lost'),
            'files' => array_map(
                fn (BestEntry $entry): array => PathInJson::of('/'.$entry->path) + [
                    'state' => $entry->state,
                    'point' => $entry->from?->name,
                    'because' => $entry->because,
                ],
                $best->entries,
            ),
        ];
    }
}
