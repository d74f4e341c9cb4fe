<?php

declare(strict_types=1);

namespace App\Activity;

use App\Models\BackupSet;
use App\Models\Check;
use App\Models\Making;
use App\Models\Run;
use App\Models\RunStep;
use App\Models\TrailEntry;
use App\Words;
use Carbon\CarbonImmutable;
use Illuminate\Support\Facades\DB;

/** The log of one thing that was done, its warnings first. */
final class ActivityLog
{
    /** Lines that are shown; what is beyond them is counted. */
    public const MOST = 1000;

    /** @var list<LogLine> */
    private array $lines = [];

    /** Where more of it is shown; null where that is all. */
    public ?string $page = null;

    private function __construct()
    {
    }

    public static function of(ActivityLine $line): self
    {
        $log = new self;
        match ($line->sort) {
            ActivitySort::Made => $log->made(Making::query()->findOrFail($line->id)),
            ActivitySort::Restored => $log->restored(Run::query()->findOrFail($line->id)),
            ActivitySort::Checked => $log->checked(Check::query()->findOrFail($line->id)),
            ActivitySort::Mended => $log->mended(Check::query()->findOrFail($line->id)),
            ActivitySort::Expired => $log->expired($line->id),
        };

        return $log;
    }

    /** @return list<LogLine> */
    public function lines(): array
    {
        return array_slice(
            [
                ...array_filter($this->lines, fn (LogLine $line): bool => $line->isWarning),
                ...array_filter($this->lines, fn (LogLine $line): bool => ! $line->isWarning),
            ],
            0,
            self::MOST,
        );
    }

    public function count(): int
    {
        return count($this->lines);
    }

    private function add(bool $isWarning, string $words, ?CarbonImmutable $at = null): void
    {
        $this->lines[] = new LogLine($isWarning, mb_scrub($words), $at);
    }

    private function made(Making $making): void
    {
        $this->add(false, "A {$making->level} to {$making->store->name}: {$making->why}.", $making->created_at);
        if ($making->failure !== null) {
            $this->add(true, $making->failure, $making->ended_at);
        }
        $set = BackupSet::query()->where('workload_id', $making->workload_id)->where('name', (string) $making->set_name)->first();
        if ($making->set_name !== null && $set === null) {
            $this->add(false, "{$making->set_name} is not kept any more.");
        }
        $this->page = $set === null ? null : "/sets/{$set->id}";
        foreach ($set->remarks ?? [] as $remark) {
            $this->add(true, $remark);
        }
        foreach ($set->commands ?? [] as $command) {
            $words = implode(' ', (array) ($command['command'] ?? []));
            $exit = $command['exit'] ?? null;
            $this->add($exit !== 0, "The command {$command['when']} it, $words, ended ".($exit === null ? 'by force.' : "with $exit."));
            foreach (preg_split('/\R/', trim((string) ($command['output'] ?? ''))) ?: [] as $said) {
                $said === '' || $this->add(false, $said);
            }
        }
        if ($making->ended_at !== null && $making->state === 'done') {
            $this->add(false, 'It is '.Words::count($making->entries, 'entry', 'entries').'.', $making->ended_at);
        }
    }

    private function restored(Run $run): void
    {
        $this->page = $run->page();
        if ($run->failure !== null) {
            $this->add(true, $run->failure, $run->ended_at);
        }
        foreach (RunStep::query()->where('run_id', $run->id)->orderBy('position')->get() as $step) {
            $seconds = $step->seconds();
            $this->add(
                $step->state === 'failed',
                "{$step->name}: ".($step->detail ?? $step->state).($seconds === null ? '' : ' ('.Words::duration($seconds).')'),
                $step->started_at,
            );
        }
        foreach (TrailEntry::query()->with('user')->where('run_id', $run->id)->orderBy('id')->limit(self::MOST)->get() as $entry) {
            $this->add(false, ($entry->user === null ? '' : "{$entry->user->name}: ").$entry->what, $entry->at);
        }
    }

    private function checked(Check $first): void
    {
        if (! $first->planned) {
            $this->check($first);

            return;
        }
        Check::query()
            ->where('workload_id', $first->workload_id)
            ->where('planned', true)
            ->where('result', '<>', 'mended')
            ->whereBetween('at', [$first->at->startOfDay(), $first->at->endOfDay()])
            ->orderBy('id')
            ->get()
            ->each($this->check(...));
    }

    private function mended(Check $check): void
    {
        $this->check($check);
        $before = Check::query()
            ->where('workload_id', $check->workload_id)
            ->where('set_name', $check->set_name)
            ->where('store_name', $check->store_name)
            ->where('id', '<', $check->id)
            ->latest('id')
            ->first();
        if ($before !== null) {
            $this->check($before);
        }
    }

    private function check(Check $check): void
    {
        $this->add(
            ! $check->isRight(),
            "{$check->set_name} on {$check->store_name}: {$check->result}".
                ($check->because === null ? '' : ". {$check->because}").
                ' ('.Words::size($check->bytes).', '.Words::duration($check->seconds).')',
            $check->at,
        );
    }

    private function expired(int $id): void
    {
        $first = DB::table('expiries')->where('id', $id)->firstOrFail();
        foreach (
            DB::table('expiries')
                ->where('workload_id', $first->workload_id)
                ->where('planned_at', $first->planned_at)
                ->orderBy('turn')
                ->orderBy('id')
                ->get() as $row
        ) {
            $what = "{$row->set_name} on {$row->store_name} (".Words::size((int) $row->bytes).')';
            match (true) {
                $row->failure !== null => $this->add(true, $row->failure),
                $row->done_at === null => $this->add(true, "$what is not deleted yet."),
                default => $this->add(false, "$what was deleted.", CarbonImmutable::parse($row->done_at, 'UTC')),
            };
        }
    }
}
