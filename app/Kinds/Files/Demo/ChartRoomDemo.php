<?php

declare(strict_types=1);

namespace App\Kinds\Files\Demo;

use App\Instance;
use App\Models\Workload;
use App\Trees\Catalog\TextIndex;
use Closure;
use DateTimeImmutable;
use Kaiseki\Core\Instant;
use Kaiseki\StandIns\FileHost;
use Kaiseki\StandIns\SorrelSoundChartRoom;

/** The demo's library of documents: two weeks of it, protected each night, with the permissions of two folders flattened near the end. */
final class ChartRoomDemo
{
    private const NAME = 'chart-room';

    private const DAYS = 14;

    /** @param  Closure(string...): array<mixed>  $kaiseki */
    public function make(DateTimeImmutable $today, Closure $kaiseki): void
    {
        $mask = umask(0022); // another machine, with files as people have them
        $host = new FileHost(Instance::folder('hosts/'.self::NAME));
        $first = $today->modify('-'.self::DAYS.' days');
        $host->setClock(Instant::of($first->modify('02:10')));
        $library = new SorrelSoundChartRoom($host->root());
        $library->begin($first);
        $kaiseki('protect', self::NAME, "--source={$host->root()}", '--level=full');
        Workload::query()->where('name', self::NAME)->update([
            'group' => 'bridge', 'zone' => 'Europe/Oslo', 'site' => 'boathouse', 'rpo_s' => 26 * 3600, 'rto_s' => 3600,
        ]);
        for ($number = 1; $number <= self::DAYS; $number++) {
            $day = $first->modify("+$number days");
            $library->live($day->modify('-1 day'), self::DAYS - $number);
            $host->setClock(Instant::of($day->modify('02:10')));
            $kaiseki('protect', self::NAME, '--level='.($day->format('N') === '7' ? 'full' : 'incr'));
        }
        unlink("{$host->folder}/clock"); // from now on it lives with this machine
        umask($mask);
        $kaiseki('schedule', self::NAME, '--cron=10 3 * * 0=full', '--cron=10 3 * * 1-6=incr', '--zone=Europe/Oslo');
        TextIndex::bringUpToDate(Workload::query()->where('name', self::NAME)->firstOrFail());
    }
}
