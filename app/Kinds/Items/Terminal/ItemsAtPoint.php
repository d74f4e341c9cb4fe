<?php

declare(strict_types=1);

namespace App\Kinds\Items\Terminal;

use App\Models\BackupSet;
use App\Models\Workload;
use App\Sets\CannotPlan;
use App\Sets\Points;
use InvalidArgumentException;
use Kaiseki\Core\Chain\Demands;
use Kaiseki\Core\Instant;
use Symfony\Component\Console\Input\InputInterface;

/** The point that an order on the command line means. */
final readonly class ItemsAtPoint
{
    private function __construct(public Points $points, public BackupSet $point)
    {
    }

    /** For looking only: also a point that cannot be given back whole can be looked into. */
    public static function toLook(Workload $workload, InputInterface $input): self
    {
        $points = new Points($workload);
        $at = Instant::parse(
            (string) ($input->getOption('at') ?? throw new InvalidArgumentException('Say with --at which moment is wanted.')),
        );
        $last = $points->lastBefore($at);
        $point = $points->modelOf($points->find($at, new Demands(false, false))->set) ?? ($last === null ? null : $points->model($last));

        return new self($points, $point ?? throw CannotPlan::because('there is no point at or before that moment'));
    }

    /** @throws CannotPlan if no point meets the demands */
    public static function toBring(Workload $workload, InputInterface $input): self
    {
        $points = new Points($workload);
        $named = $input->getOption('point');
        if ($named !== null) {
            $set = $points->set((string) $named) ?? throw CannotPlan::because("there is no set $named");
            if ($points->usable($set) === 'no') {
                throw CannotPlan::because((string) $points->because($set));
            }

            return new self($points, $points->model($set));
        }
        $at = Instant::parse(
            (string) ($input->getOption('at') ?? throw new InvalidArgumentException('Say with --at which moment is wanted, or a --point.')),
        );
        $found = $points->find($at, Demands::parse((string) $input->getOption('demand')));

        return new self($points, $points->modelOf($found->set) ?? throw CannotPlan::because('no usable point is at or before that moment'));
    }
}
