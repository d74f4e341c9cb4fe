<?php

declare(strict_types=1);

namespace App\Runs;

use App\Catalog\CatalogReader;
use App\Estate\CannotRegister;
use App\Estate\ContentPlaces;
use App\Estate\PlanOfReading;
use App\Estate\Points;
use App\Estate\Protection;
use App\Models\Copy;
use App\Models\RecoveryRequest;
use App\Models\Run;
use App\Models\RunStep;
use App\Models\TrailEntry;
use App\Trust\BestEntry;
use App\Trust\BestTree;
use App\View\Words;
use Closure;
use InvalidArgumentException;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Files\FolderBelow;
use Kaiseki\Core\Files\Journal;
use Kaiseki\Core\Files\LeftOut;
use Kaiseki\Core\Files\Placement;
use Kaiseki\Core\Files\PutBack;
use Kaiseki\Core\Files\RestoreOrder;
use Kaiseki\Core\Files\Staging;
use Kaiseki\Core\Files\UnableToRestore;
use Kaiseki\Core\Files\Verification;
use RuntimeException;
use Throwable;

/**
 * Carries a run out, step by step. After a crash it is simply carried out again: what was staged but not confirmed is
 * staged anew, and what was being put in place is gone on with from the journal.
 */
final class RunCarrier
{
    public const STEPS = ['lock the target', 'check the room', 'make a set of what is there', 'attach the media', 'stage', 'put in place', 'check in place', 'clean up'];

    private Run $run;

    /** @var list<LeftOut> */
    private array $leftOut = [];

    /** What comes from other points than the run's own. */
    private ?BestTree $best = null;

    /** @param  (Closure(int, int): void)|null  $also told files and bytes brought so far */
    public function __construct(private readonly ?Closure $also = null)
    {
    }

    public function carryOut(Run $run): void
    {
        $this->run = $run;
        if (! $this->claim($run)) {
            return;
        }
        clearstatcache(true);
        foreach (self::STEPS as $position => $name) {
            RunStep::query()->firstOrCreate(['run_id' => $run->id, 'position' => $position], ['name' => $name]);
        }
        try {
            $this->carry();
        } catch (RunMustWait $wait) {
            $this->wait($wait);
        } catch (UnableToRestore $failure) {
            $this->fail($failure->getMessage(), $run->refresh()->stop_asked ? 'stopped' : 'failed');
        } catch (Throwable $bug) {
            $this->fail('Something went wrong that should not have: '.$bug->getMessage(), 'failed');
            throw $bug;
        }
    }

    /** Makes the run this process's own; false if it is over, or another process has it. */
    private function claim(Run $run): bool
    {
        if ($run->isOver() || ($run->state === 'running' && $run->worker !== null && WorkerProcess::isAlive($run->worker))) {
            return false;
        }
        // Of two that find it abandoned at once, one gets it.
        $got = Run::query()->whereKey($run->id)->whereIn('state', ['queued', 'running'])->where(fn ($query) => $run->worker === null ? $query->whereNull('worker') : $query->where('worker', $run->worker))
            ->update(['state' => 'running', 'worker' => WorkerProcess::own(), 'started_at' => $run->started_at ?? now(), 'heartbeat_at' => now(), 'failure' => null]);
        $run->refresh();

        return $got === 1;
    }

    /**
     * Undoes what the run did to its target.
     *
     * @throws UnableToRestore if the target is gone, or another run is at work there
     */
    public function putBack(Run $run): PutBack
    {
        $this->run = $run;
        if ($run->state === 'queued' || ($run->state === 'running' && $run->worker !== null && WorkerProcess::isAlive($run->worker))) {
            throw UnableToRestore::targetUnfit(RestorePlan::fromArray($run->plan)->target, "run {$run->id} is still at work there");
        }
        if (! $run->isOver()) {
            // Its process died; from now on nobody goes on with it.
            $run->update(['state' => 'failed', 'failure' => 'Its process died, and it was put back.', 'ended_at' => now()]);
        }
        $plan = RestorePlan::fromArray($run->plan);
        TargetLock::take($plan->target);
        try {
            $order = $this->order($plan, $this->items($plan, new Points($run->workload)));
            $putBack = new PutBack;
            $putBack->run(RunFiles::journal($run), FolderBelow::open($plan->target), $order->items, $order);
            TrailEntry::add("Run {$run->id} was put back: {$putBack->removed} removed, {$putBack->returned} returned.", $run->request, null, $run);

            return $putBack;
        } finally {
            TargetLock::free($plan->target);
        }
    }

    private function carry(): void
    {
        $run = $this->run;
        $plan = RestorePlan::fromArray($run->plan);
        $this->step(0, function () use ($plan): string {
            TargetLock::take($plan->target);

            return $plan->target;
        });
        $points = null;
        try {
            $points = new Points($run->workload);
            $items = $this->items($plan, $points);
            $order = $this->order($plan, $items);
            $target = FolderBelow::make($plan->target);
            $progress = new RunProgress($run, $this->also);
            $journal = Journal::open(RunFiles::journal($run));
            $reading = PlanOfReading::for($points, $run->set, $plan->paths, null, $plan->copies, $items);
            $run->update(['files_total' => $reading->files, 'bytes_total' => $reading->bytes, 'estimate' => $run->estimate ?? $this->estimate($reading)]);
            $source = new ContentPlaces($points, $run->set, $points->route($run->workload->site), $reading->list, $plan->copies);
            $this->step(1, fn (): string => $this->checkRoom($target, $reading->bytes));
            $this->step(2, fn (): string => $plan->setFirst ? $this->saveWhatIsThere() : 'not asked for');
            $staging = new Staging($order, $target, $source, $progress);
            $this->step(3, fn (): string => $this->attach($reading));
            $this->step(4, fn (): string => $this->stage($staging, $journal, $progress, $source));
            $this->clearIfNothing($staging, $journal);
            $placement = new Placement($order, $target, $journal);
            $this->step(5, fn (): string => $this->place($placement, $journal));
            $verification = new Verification;
            $proof = new ProofWriter($run, $plan);
            $this->step(6, function () use ($verification, $order, $target, $placement, $proof, $progress): string {
                $verification->run($order, $target, $placement, $this->leftOut, $proof->file(...), $progress);

                return sprintf('%s files, %s read again from the target', number_format($verification->files), $this->bytes($verification->bytes));
            });
            $this->step(7, fn (): string => 'nothing was left attached');
            $this->finish($plan, $verification, $placement, $staging, $source, $proof, count($items));
        } finally {
            $points?->stores->release();
            TargetLock::free($plan->target);
        }
    }

    /** @throws UnableToRestore if it cannot be made: then nothing is put in place */
    private function saveWhatIsThere(): string
    {
        $made = $this->run->plan['made_first'] ?? null;
        if (is_string($made)) {
            return "$made was made before the interruption";
        }
        try {
            $set = Protection::ofPresent($this->run->workload);
        } catch (CannotRegister|InvalidArgumentException|RuntimeException $failure) {
            throw UnableToRestore::targetUnfit((string) $this->run->workload->source, "a set of what is there could not be made first: {$failure->getMessage()}");
        }
        $this->run->update(['plan' => ['made_first' => $set->name] + $this->run->plan]);

        return "{$set->name}, ".$this->bytes($set->bytes);
    }

    /** @return array{likely: float, least: float, most: float, lanes: list<string>} */
    private function estimate(PlanOfReading $reading): array
    {
        $whole = $reading->estimate->whole;

        return ['likely' => round($whole->likely, 2), 'least' => round($whole->least, 2), 'most' => round($whole->most, 2), 'lanes' => $reading->lanes()];
    }

    /** @throws RunMustWait if a cartridge that is needed stands on the shelf */
    private function attach(PlanOfReading $reading): string
    {
        $toFetch = Journal::holds(RunFiles::journal($this->run), Journal::STAGED) ? [] : $reading->estimate->toFetch;
        if ($toFetch !== []) {
            Shelf::call($toFetch, $this->run);
            throw RunMustWait::forCartridges($toFetch);
        }
        $media = $reading->media();

        return $media === [] ? 'nothing has to be attached' : 'to be loaded in this order: '.implode(', ', $media);
    }

    /** @return array<array-key, string> path => packed version; the folders above a path come before it */
    private function items(RestorePlan $plan, Points $points): array
    {
        $reader = new CatalogReader;
        $items = [];
        foreach (EntryPath::outermost($plan->paths) as $path) {
            $above = [];
            for ($folder = $path; $folder !== '';) {
                [$folder] = EntryPath::split($folder);
                if ($folder !== '') {
                    $above[] = $folder;
                }
            }
            foreach (array_reverse($above) as $folder) {
                $items[$folder] ??= $reader->at($this->run->set, $folder) ?? $items[$folder] ?? '';
            }
        }
        $items = array_filter($items, fn (string $packed): bool => $packed !== '' && $packed[0] === 'd');
        foreach ($reader->entriesBelow($this->run->set, $plan->paths) as $path => $packed) {
            $items[$path] = $packed;
        }
        if ($plan->acrossPoints !== '') {
            $this->best = BestTree::of($points, $points->sets[$this->run->set_id], $plan->paths, $plan->acrossPoints === 'clear');
            $items = $this->best->applyTo($items, $points);
        }

        return $items;
    }

    /** @param  array<array-key, string>  $items */
    private function order(RestorePlan $plan, array $items): RestoreOrder
    {
        if ($plan->flat) {
            $items = RestoreOrder::flatten($items);
        }

        return new RestoreOrder((string) $this->run->id, $items, $plan->target, $plan->conflict, $plan->date, $plan->keepSetId, $plan->targetIsNew && ! $plan->flat && in_array('', $plan->paths, true));
    }

    private function checkRoom(FolderBelow $target, int $bytes): string
    {
        $free = $target->freeBytes();
        if ($free < $bytes) {
            throw UnableToRestore::targetUnfit($target->path, sprintf('its volume has %s free, and %s are needed', $this->bytes($free), $this->bytes($bytes)));
        }

        return sprintf('%s free, %s needed', $this->bytes($free), $this->bytes($bytes));
    }

    private function stage(Staging $staging, Journal $journal, RunProgress $progress, ContentPlaces $source): string
    {
        if (Journal::holds($journal->path, Journal::STAGED)) {
            $this->leftOut = self::leftOutBefore($this->run);

            return 'was staged before the interruption';
        }
        $staging->fill();
        $progress->tell();
        $this->leftOut = $staging->leftOut();
        $onShelf = $source->onShelf();
        if (($source->silent !== [] || $onShelf !== []) && array_filter($this->leftOut, fn (LeftOut $left): bool => $left->isLoss) !== []) {
            $staging->clear();
            if ($onShelf !== []) {
                // What was to be read instead of these turned out damaged.
                Shelf::call($onShelf, $this->run);
                throw RunMustWait::forCartridges($onShelf);
            }
            throw RunMustWait::forStores($source->silent);
        }
        $this->run->update(['outcome' => ['left_out' => array_map(self::leftOutRow(...), $this->leftOut), 'read' => $staging->whatWasRead()]]);
        $journal->add(Journal::STAGED);

        return sprintf('%s files, %s, each right by its digest', number_format($this->run->refresh()->files_done), $this->bytes($this->run->bytes_done));
    }

    private function clearIfNothing(Staging $staging, Journal $journal): void
    {
        $lost = array_filter($this->leftOut, fn (LeftOut $left): bool => $left->isLoss);
        if ($lost !== [] && $this->run->files_done === 0 && $this->run->files_total > 0 && count($lost) >= $this->run->files_total && ! Journal::holds($journal->path, Journal::PLACED)) {
            $staging->clear();
            throw UnableToRestore::at($lost[array_key_first($lost)]->path, $lost[array_key_first($lost)]->because.'. Nothing else was selected, so nothing was put in place');
        }
    }

    private function place(Placement $placement, Journal $journal): string
    {
        if (! Journal::holds($journal->path, Journal::FINISHED)) {
            $placement->place();
        }

        return sprintf('%d set aside or renamed, %d put beside something, %d left as they were', $placement->replaced(), $placement->beside(), count($placement->kept()));
    }

    private function finish(RestorePlan $plan, Verification $verification, Placement $placement, Staging $staging, ContentPlaces $source, ProofWriter $proof, int $items): void
    {
        $run = $this->run;
        $read = $staging->whatWasRead() ?: ($run->outcome['read'] ?? []);
        $copies = Copy::query()->with('set', 'store')->whereIn('id', array_keys($read))->get()->keyBy('id');
        $reading = [];
        foreach ($read as $copy => $what) {
            $reading[] = ['set' => $copies[$copy]->set->name, 'store' => $copies[$copy]->store->name, 'bytes' => $what['bytes'], 'members' => $what['members']];
        }
        foreach ($placement->kept() as $path => $because) {
            $this->leftOut[] = new LeftOut((string) $path, $because, false);
        }
        foreach ($this->best->entries ?? [] as $entry) {
            if ($entry->packed === null) {
                $this->leftOut[] = new LeftOut($entry->path, "{$entry->because}, and there is no earlier version that would do", true);
            }
        }
        $lost = array_filter($this->leftOut, fn (LeftOut $left): bool => $left->isLoss);
        $checks = [
            ['check' => 'every file that was to come back is there', 'result' => $lost === [] ? 'passed' : 'failed', 'detail' => count($lost).' could not be given back'],
            ['check' => 'content (BLAKE2b-256), size, mode and time as in the catalog, read again from the target', 'result' => $verification->differences === [] ? 'passed' : 'failed', 'detail' => count($verification->differences).' differ'],
        ];
        $outcome = [
            'entries' => $verification->files + $verification->folders + $verification->others,
            'files' => $verification->files, 'bytes' => $verification->bytes,
            'placed_beside' => $placement->beside(), 'replaced' => $placement->replaced(), 'kept' => count($placement->kept()),
            'left_out' => array_map(self::leftOutRow(...), $this->leftOut), 'differences' => array_map(self::leftOutRow(...), $verification->differences),
            'read' => $reading, 'damaged' => array_values(array_map(fn (string $because): string => $because, $source->failures)), 'checks' => $checks,
            'from_other_points' => array_map(fn (BestEntry $entry): array => PathInJson::of($entry->path) + ['state' => $entry->state, 'point' => $entry->from?->name, 'because' => $entry->because], array_values(array_filter($this->best->entries ?? [], fn (BestEntry $entry): bool => $entry->packed !== null))),
            'right' => $lost === [] && $verification->differences === [],
        ];
        $run->update(['state' => 'done', 'outcome' => $outcome, 'ended_at' => now()]);
        Measurements::of($run, $read, $copies->all());
        $proof->write($outcome);
        $this->tellRequest(sprintf('Run %d ended: %s came back, %s.', $run->id, Words::count($verification->files, 'file'), $outcome['right'] ? 'all right' : 'not all right'), 'answer');
    }

    private function wait(RunMustWait $wait): void
    {
        RunStep::query()->where('run_id', $this->run->id)->where('state', 'running')->update(['state' => 'waiting', 'detail' => $wait->getMessage()]);
        $this->run->update(['state' => 'waiting', 'worker' => null, 'waits_for' => $wait->for]);
        TrailEntry::add("Run {$this->run->id} waits: {$wait->getMessage()}.", $this->run->request, null, $this->run);
    }

    private function fail(string $because, string $state): void
    {
        RunStep::query()->where('run_id', $this->run->id)->where('state', 'running')->update(['state' => 'failed', 'ended_at' => now()]);
        $placed = 0;
        foreach (Journal::read(RunFiles::journal($this->run)) as $line) {
            $placed += $line[0] === Journal::PLACED ? 1 : 0;
        }
        $done = $placed === 0 ? ' Nothing was put in place, and nothing that was there was touched.' : " $placed things were put in place before that; what they replaced is in the set-aside.";
        $this->run->update(['state' => $state, 'failure' => $because.$done, 'ended_at' => now()]);
        $this->tellRequest("Run {$this->run->id} ".($state === 'stopped' ? 'was stopped' : 'failed').': '.$because, 'open');
    }

    private function tellRequest(string $what, string $state): void
    {
        $request = $this->run->request;
        if ($request instanceof RecoveryRequest && $request->state !== 'closed') {
            $request->update(['state' => $state]);
        }
        TrailEntry::add($what, $request, null, $this->run);
    }

    /** @param  Closure(): string  $work */
    private function step(int $position, Closure $work): void
    {
        $step = RunStep::query()->where(['run_id' => $this->run->id, 'position' => $position])->firstOrFail();
        $step->update(['state' => 'running', 'started_at' => now()]);
        $detail = $work();
        $step->update(['state' => 'done', 'ended_at' => now(), 'detail' => mb_scrub($detail)]);
    }

    /** @return array{path: string, encoded?: true, because: string, loss: bool} */
    private static function leftOutRow(LeftOut $left): array
    {
        return PathInJson::of($left->path) + ['because' => $left->because, 'loss' => $left->isLoss];
    }

    /** @return list<LeftOut> */
    private static function leftOutBefore(Run $run): array
    {
        return array_map(fn (array $row): LeftOut => new LeftOut(PathInJson::parse($row), $row['because'], $row['loss']), $run->outcome['left_out'] ?? []);
    }

    private function bytes(int $bytes): string
    {
        return Words::size($bytes);
    }
}
