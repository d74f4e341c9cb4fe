<?php

declare(strict_types=1);

// bin/bench chain: the finder and the reading list by sets, at 100 to 50,000 sets, with 3 and 8 media that matter.
// Two shapes: a full each week (a reading list of some ten sets), and one full with increments for ever (all of them).

use Kaiseki\Core\Chain\BackupSet;
use Kaiseki\Core\Chain\Chain;
use Kaiseki\Core\Chain\ChainGraph;
use Kaiseki\Core\Chain\CopyChooser;
use Kaiseki\Core\Chain\CopyState;
use Kaiseki\Core\Chain\Demands;
use Kaiseki\Core\Chain\Level;
use Kaiseki\Core\Chain\PointFinder;
use Kaiseki\Core\Chain\Route;
use Kaiseki\Core\Chain\SetCopy;
use Kaiseki\Core\Chain\StoreRate;
use Kaiseki\Core\Instant;
use Random\Engine\Mt19937;
use Random\Randomizer;

require __DIR__.'/../../vendor/autoload.php';

/** @return list<BackupSet> hourly; each on a disk, and on one or two of the cartridges */
function hourlySets(int $count, int $media, bool $weekly, Randomizer $random): array
{
    $sets = [];
    for ($i = 0; $i < $count; $i++) {
        $level = $i === 0 || ($weekly && $i % 168 === 0) ? 'full' : ($weekly && $i % 24 === 0 ? 'diff' : 'incr');
        $copies = [new SetCopy('disk', $random->getInt(0, 99) === 0 ? CopyState::Damaged : CopyState::Ok)];
        foreach ([0, 1] as $copy) {
            $copies[] = new SetCopy('tape', CopyState::Offline, ['HV'.$random->getInt(0, $media - 1)], $i);
        }
        $sets[] = new BackupSet(
            "S$i",
            Level::of($level),
            Instant::ofMicroseconds((1_600_000_000 + $i * 3600) * 1_000_000),
            $random->getInt(1_000_000, 3_000_000_000),
            $copies,
        );
    }

    return $sets;
}

$route = new Route(
    ['disk' => new StoreRate('pier-nine', 120), 'tape' => new StoreRate('hill', 160, 90)],
    ['pier-nine' => ['boathouse' => 12]],
    'boathouse',
);
printf("%-12s %7s %6s  %9s %9s %9s  %9s  %6s\n", 'shape', 'sets', 'media', 'graph', 'finder', 'list', 'together', 'pieces');
foreach (['weekly full' => true, 'one full' => false] as $shape => $weekly) {
    foreach ([3, 8] as $media) {
        foreach ([100, 1_000, 5_000, 50_000] as $count) {
            $sets = hourlySets($count, $media, $weekly, new Randomizer(new Mt19937($count)));
            $best = [INF, INF, INF];
            for ($round = 0; $round < 5; $round++) {
                $began = hrtime(true);
                $graph = new ChainGraph($sets);
                $built = hrtime(true);
                $found = PointFinder::bySets($graph, $route->sites())->find($sets[$count - 1]->capturedAt, new Demands);
                $foundAt = hrtime(true);
                $chain = $graph->chainOf((string) $found->set?->id);
                assert($chain instanceof Chain);
                $list = CopyChooser::choose(array_map(fn (BackupSet $set): array => [$set, $set->bytes], $chain->sets), $route);
                $best = array_map(min(...), $best, [($built - $began) / 1e6, ($foundAt - $built) / 1e6, (hrtime(true) - $foundAt) / 1e6]);
            }
            printf(
                "%-12s %7d %6d  %6.1f ms %6.1f ms %6.1f ms  %6.1f ms  %6d\n",
                $shape,
                $count,
                $media,
                $best[0],
                $best[1],
                $best[2],
                array_sum($best),
                count($list->readings ?? []),
            );
        }
    }
}
