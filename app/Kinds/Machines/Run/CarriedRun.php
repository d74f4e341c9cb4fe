<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Run;

use App\Kinds\Machines\Order\CannotBring;
use App\Models\Run;
use App\Runs\RunLedger;
use App\Runs\RunMustWait;
use App\Runs\Shelf;
use App\Sets\CannotPlan;
use App\Sets\ReadingPlan;
use Closure;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Files\UnableToRestore;
use Kaiseki\Core\Hypervisor\HypervisorFailure;
use Kaiseki\Core\Hypervisor\UnfitSettings;
use Kaiseki\Core\Machine\UnreadableImage;
use Kaiseki\Core\UnableToRead;
use Kaiseki\Core\UnableToWrite;
use Throwable;

/** What all runs of machines have in common: how they begin, wait for media, and are told to have failed. */
final class CarriedRun
{
    /**
     * @param  list<string>  $steps
     * @param  Closure(): void  $work
     * @param  Closure(): string  $done  what it had done when it failed, as a sentence with a space before it
     */
    public static function carry(RunLedger $ledger, array $steps, Closure $work, Closure $done): void
    {
        if (! $ledger->claim($steps)) {
            return;
        }
        try {
            $work();
        } catch (RunMustWait $wait) {
            $ledger->wait($wait);
        } catch (
            UnableToRestore|UnreadableImage|UnreadableArchive|UnableToRead|UnableToWrite|CannotBring|CannotPlan|
            HypervisorFailure|UnfitSettings $failure
        ) {
            $because = rtrim($failure->getMessage(), '.').'.';
            $ledger->fail($because, $ledger->run->refresh()->stop_asked ? 'stopped' : 'failed', $done());
        } catch (Throwable $bug) {
            $ledger->fail('Something went wrong that should not have: '.$bug->getMessage(), 'failed', '');
            throw $bug;
        }
    }

    /** @throws RunMustWait if a cartridge that is needed stands on the shelf */
    public static function attach(Run $run, ReadingPlan $reading): string
    {
        $whole = $reading->estimate()->whole;
        $told = ['likely' => $whole->likely, 'least' => $whole->least, 'most' => $whole->most, 'lanes' => []];
        $run->update(['estimate' => $run->estimate ?? $told]);

        return Shelf::attach($run, $reading->estimate()->toFetch, $reading->media());
    }
}
