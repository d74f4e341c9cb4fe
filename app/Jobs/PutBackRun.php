<?php

declare(strict_types=1);

namespace App\Jobs;

use App\Kinds\Databases\Order\CannotRestore;
use App\Kinds\Databases\Run\DatabaseRun;
use App\Kinds\Databases\Server\CannotReachServer;
use App\Models\Run;
use App\Trees\Run\RunCarrier;
use App\Trees\Run\RunOutcome;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;
use Kaiseki\Core\Files\UnableToRestore;
use PDOException;

/** Undoes a run; what could not be undone stands on its page. */
final class PutBackRun implements ShouldQueue
{
    use Queueable;

    public function __construct(public readonly int $run, public readonly bool $alsoChanged)
    {
        $this->onQueue('runs');
    }

    public function handle(): void
    {
        $run = Run::query()->find($this->run);
        if ($run === null) {
            return;
        }
        try {
            if ($run->isOfDatabase()) {
                $told = ['state' => 'done', 'removed' => 0, 'left' => [], 'kept' => []] + (new DatabaseRun)->putBack($run);
                $run->refresh()->update(['outcome' => ['put_back' => $told] + ($run->outcome ?? [])]);

                return;
            }
            $done = (new RunCarrier)->putBack($run, $this->alsoChanged);
            $told = ['state' => 'done', 'removed' => $done->removed, 'returned' => $done->returned, 'left' => array_map(RunOutcome::row(...), $done->left), 'kept' => array_map(mb_scrub(...), array_values($done->kept))];
        } catch (UnableToRestore|CannotRestore|CannotReachServer|PDOException $unable) {
            $told = ['state' => 'failed', 'because' => $unable->getMessage()];
        }
        $run->refresh();
        $run->update(['outcome' => ['put_back' => $told] + ($run->outcome ?? [])]);
    }
}
