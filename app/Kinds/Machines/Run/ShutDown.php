<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Run;

use App\Runs\RunProgress;
use Kaiseki\Core\Files\UnableToRestore;
use Kaiseki\Core\Hypervisor\Hypervisor;
use Kaiseki\Core\Hypervisor\HypervisorFailure;

/** Shuts a machine down: it is asked to, and ended if it does not go. */
final class ShutDown
{
    public const WAS_OFF = 'it is off';

    /**
     * @return string how it went off
     *
     * @throws HypervisorFailure
     * @throws UnableToRestore if its run is stopped meanwhile
     */
    public static function of(Hypervisor $hypervisor, string $machine, ?RunProgress $progress = null): string
    {
        if ($hypervisor->machine($machine)?->isRunning() !== true) {
            return self::WAS_OFF;
        }
        $hypervisor->stop($machine, false);
        $until = microtime(true) + (int) config('machines.shuts_down_in');
        do {
            usleep(200_000);
            $progress?->advanced(0, 0);
            $isOff = $hypervisor->machine($machine)?->isRunning() !== true;
        } while (! $isOff && microtime(true) < $until);
        if ($isOff) {
            return 'it went off when it was asked to';
        }
        $hypervisor->stop($machine, true);

        return 'it did not go off when it was asked to, and was ended, as if its power were cut';
    }
}
