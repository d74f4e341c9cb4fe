<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Demo;

use App\Instance;
use App\Models\Workload;
use Closure;
use DateTimeImmutable;
use Kaiseki\StandIns\SorrelSoundMachine;

/** The machine of the demo: the images of its disks as another tool left them. */
final class BerthPlanner
{
    public const NAME = 'berth-planner';

    /** Nights before today whose image of the data disk was lost since. */
    private const LOST = 9;

    /** @param  Closure(string...): array<mixed>  $kaiseki */
    public function make(DateTimeImmutable $today, int $days, Closure $kaiseki): void
    {
        $images = Instance::path('stores/berth-planner-images');
        $machine = new SorrelSoundMachine(Instance::folder('tmp').'/berth-planner', $images);
        $first = $today->modify("-$days days");
        $machine->begin($first);
        for ($day = 0; $day < $days; $day++) {
            $at = $first->modify("+$day days");
            $day === 0 || $machine->day($at);
            $level = ['Sun' => 'full', 'Wed' => 'diff'][$at->format('D')] ?? 'incr';
            $machine->night($at->setTime(23, 10), $day === 0 ? 'full' : $level);
        }
        $machine->delete();
        $kaiseki('adopt', $images, '--as='.self::NAME, '--kind=machine', '--site=pier-nine');
        $lost = gmdate('Ymd', $today->modify('-'.self::LOST.' days')->setTime(23, 10)->getTimestamp());
        array_map(unlink(...), glob("$images/*.data.*.{$lost}T*.qcow2") ?: []);
        Workload::query()->where('name', self::NAME)->update(['group' => 'piers']);
    }
}
