<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Demo;

use App\Instance;
use App\Models\Workload;
use Closure;
use DateTimeImmutable;
use Kaiseki\StandIns\GuestSystem;
use Kaiseki\StandIns\SorrelSoundMachine;

/** The machine of the demo that somebody deleted: the images of its disks are as another tool left them. */
final class BerthPlanner
{
    public const NAME = 'berth-planner';

    /** Nights before today whose image of the data disk was lost since. */
    private const LOST = 9;

    /** @param  Closure(string...): array<mixed>  $kaiseki */
    public function make(DateTimeImmutable $today, int $days, GuestSystem $guest, Closure $kaiseki): void
    {
        $images = Instance::path('stores/berth-planner-images');
        $machine = new SorrelSoundMachine(Instance::folder('tmp').'/'.self::NAME, $images, self::NAME, $guest);
        $machine->live($today, $days);
        $machine->delete();
        $kaiseki('adopt', $images, '--as='.self::NAME, '--kind=machine', '--site=pier-nine');
        $lost = gmdate('Ymd', $today->modify('-'.self::LOST.' days')->setTime(23, 10)->getTimestamp());
        array_map(unlink(...), glob("$images/*.data.*.{$lost}T*.qcow2") ?: []);
        Workload::query()->where('name', self::NAME)->update(['group' => 'piers']);
    }
}
