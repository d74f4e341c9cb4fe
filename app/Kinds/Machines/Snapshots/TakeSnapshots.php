<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Snapshots;

use App\Hosts\HostCommand;
use App\Instance;
use App\Jobs\Line;
use App\Kinds\Machines\Order\CannotBring;
use App\Models\TrailEntry;
use Illuminate\Contracts\Queue\ShouldBeUnique;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;
use Kaiseki\Core\Hypervisor\HypervisorFailure;

/** Takes the snapshots that are due by the rules, and drops those that are more than a rule keeps. */
final class TakeSnapshots implements ShouldBeUnique, ShouldQueue
{
    use Queueable;

    public int $uniqueFor = 300;

    /** Seconds before it is due in which one is taken already: it is looked once a minute. */
    private const EARLY = 30;

    private const PATIENCE = 60;

    public function __construct()
    {
        $this->onQueue(Line::Clock->value);
    }

    public function handle(): void
    {
        foreach (SnapshotRule::query()->with('workload')->orderBy('id')->get() as $rule) {
            try {
                $failure = self::byRule($rule);
            } catch (HypervisorFailure|CannotBring $cannot) {
                $failure = $cannot->getMessage();
            }
            // Told once, and not each minute.
            if ($failure !== null && $rule->failure === null) {
                TrailEntry::add("No snapshot of {$rule->workload->name} was taken: $failure", null, null, workload: $rule->workload);
            }
            $rule->update(['failure' => $failure === null ? null : mb_strcut(mb_scrub($failure), 0, 490)]);
        }
    }

    /**
     * @return string|null what is wrong
     *
     * @throws HypervisorFailure|CannotBring
     */
    private static function byRule(SnapshotRule $rule): ?string
    {
        $snapshots = new SourceSnapshots($rule->workload);
        $newest = array_values($snapshots->all())[0]->at ?? 0;
        if (now()->getTimestamp() - $newest < 60 * $rule->minutes - self::EARLY) {
            return $rule->failure;
        }
        $snapshots->take();
        $snapshots->prune($rule->keep);
        if (($rule->command ?? []) === []) {
            return null;
        }

        return HostCommand::run('after', $rule->command, Instance::folder('tmp'), self::PATIENCE)->remark();
    }
}
