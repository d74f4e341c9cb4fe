<?php

declare(strict_types=1);

namespace App\Jobs;

use App\Kinds\Kinds;
use App\Kinds\Refusal;
use App\Models\Run;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;
use Kaiseki\Core\Files\UnableToRestore;

/** Undoes a run; what could not be undone stands on its page. */
final class PutBackRun implements ShouldQueue
{
    use Queueable;

    public function __construct(public readonly int $run, public readonly bool $alsoChanged)
    {
        $this->onQueue(Line::Runs->value);
    }

    public function handle(): void
    {
        $run = Run::query()->find($this->run);
        if ($run === null) {
            return;
        }
        try {
            $told = ['state' => 'done'] + Kinds::of($run)->carrier()->putBack($run, $this->alsoChanged)->kept;
        } catch (UnableToRestore|Refusal $unable) {
            $told = ['state' => 'failed', 'because' => $unable->getMessage()];
        }
        ReckonStanding::begin($run->workload_id);
        $run->refresh();
        $run->update(['outcome' => ['put_back' => $told] + ($run->outcome ?? [])]);
    }
}
