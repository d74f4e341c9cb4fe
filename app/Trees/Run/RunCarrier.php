<?php

declare(strict_types=1);

namespace App\Trees\Run;

use App\Hosts\HostCommand;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Runs\Measurements;
use App\Runs\RunFiles;
use App\Runs\RunLedger;
use App\Runs\RunMustWait;
use App\Runs\RunProgress;
use App\Runs\RunRefusal;
use App\Runs\SetAsides;
use App\Runs\Shelf;
use App\Runs\TargetLock;
use App\Sets\Points;
use App\Trees\Places\BestTree;
use App\Trees\Places\ContentPlaces;
use App\Trees\Places\PlanOfReading;
use App\Words;
use Closure;
use Kaiseki\Core\Files\Journal;
use Kaiseki\Core\Files\LeftOut;
use Kaiseki\Core\Files\Placement;
use Kaiseki\Core\Files\PutBack;
use Kaiseki\Core\Files\ReadAmount;
use Kaiseki\Core\Files\RestoreOrder;
use Kaiseki\Core\Files\Staging;
use Kaiseki\Core\Files\Target;
use Kaiseki\Core\Files\UnableToRestore;
use Kaiseki\Core\Files\Verification;
use Kaiseki\Core\Proof\CheckLine;
use Throwable;

/**
 * Carries a run out, step by step. After a crash it is simply carried out again: what was staged but not confirmed is
 * staged anew, and what was being put in place is gone on with from the journal.
 */
final class RunCarrier
{
    public const STEPS = [
        'lock the target',
        'look at the target',
        'make a set of what is there',
        'attach the media',
        'run the command before',
        'stage',
        'put in place',
        'check in place',
        'run the command after',
    ];

    private Run $run;

    private RunLedger $ledger;

    /** @var list<LeftOut> */
    private array $leftOut = [];

    /** @var list<LeftOut> what the command after it changed */
    private array $changedAfter = [];

    /** What comes from other points than the run's own. */
    private ?BestTree $best = null;

    /** @param  (Closure(int, int): void)|null  $also told files and bytes brought so far */
    public function __construct(private readonly ?Closure $also = null)
    {
    }

    /** With the order and the plan of reading where they are at hand. */
    public function carryOut(Run $run, ?PlannedOrder $planned = null, ?PlanOfReading $reading = null): void
    {
        if ($run->plan['permissions_only'] ?? false) {
            (new PermissionCarrier($this->also))->carryOut($run, $planned);

            return;
        }
        $this->run = $run;
        $this->ledger = new RunLedger($run);
        if (! $this->ledger->claim(self::STEPS)) {
            return;
        }
        clearstatcache(true);
        try {
            $this->carry($planned?->named((string) $run->id), $reading);
        } catch (RunMustWait $wait) {
            $this->ledger->wait($wait);
        } catch (UnableToRestore $failure) {
            $this->fail($failure->getMessage(), $run->refresh()->stop_asked ? 'stopped' : 'failed');
        } catch (Throwable $bug) {
            $this->fail('Something went wrong that should not have: '.$bug->getMessage(), 'failed');
            throw $bug;
        }
    }

    /**
     * Undoes what the run did to its target.
     *
     * @param  bool  $alsoChanged  also where somebody changed what was placed since: that is kept under a dated name
     *
     * @throws UnableToRestore if the target is gone, or another run is at work there
     */
    public function putBack(Run $run, bool $alsoChanged = false): PutBack
    {
        $this->run = $run;
        if (! (new RunLedger($run))->giveUp()) {
            throw UnableToRestore::targetUnfit(RestorePlan::fromArray($run->plan)->target, "run {$run->id} is still at work there");
        }
        $plan = RestorePlan::fromArray($run->plan);
        TargetLock::take($plan->target, $plan->host);
        try {
            $order = PlannedOrder::of($plan, $run->set, new Points($run->workload), (string) $run->id)->order;
            $putBack = new PutBack($order, $plan->open(), $alsoChanged);
            $putBack->run(RunFiles::journal($run));
            $run->update(['put_back_at' => now(), 'set_aside_until' => null]);
            TrailEntry::add(
                "Run {$run->id} was put back: {$putBack->removed} removed, {$putBack->returned} returned.",
                $run->request,
                null,
                $run,
            );

            return $putBack;
        } finally {
            TargetLock::free($plan->target, $plan->host);
        }
    }

    private function carry(?PlannedOrder $planned, ?PlanOfReading $reading): void
    {
        $run = $this->run;
        $plan = RestorePlan::fromArray($run->plan);
        if ($plan->download !== '') {
            throw UnableToRestore::targetUnfit('a download', 'it is sent when it is asked for in the browser');
        }
        RunRefusal::check($run);
        $this->ledger->step(0, function () use ($plan): string {
            TargetLock::take($plan->target, $plan->host);

            return $plan->target;
        });
        $points = null;
        try {
            $points = new Points($run->workload);
            $planned ??= PlannedOrder::of($plan, $run->set, $points, (string) $run->id);
            $order = $planned->order;
            $this->best = $planned->best;
            $journal = Journal::open(RunFiles::journal($run));
            $target = $plan->openFor($journal);
            $progress = new RunProgress($run, $this->also);
            $reading ??= PlanOfReading::for($points, $run->set, $plan->paths, null, $plan->copies, $planned->items);
            $run->update([
                'files_total' => $reading->files,
                'bytes_total' => $reading->bytes,
                'estimate' => $run->estimate ?? $this->estimate($reading),
            ]);
            $source = new ContentPlaces($points, $run->set, $points->route($run->workload->site), $reading->list, $plan->copies);
            $this->ledger->step(1, function () use ($plan, $order, $target, $reading, $journal): string {
                BeforeWriting::refuseIfChanged($plan, $order, $target, $journal);

                return $this->checkRoom($target, $reading->bytes);
            });
            $this->ledger->step(2, fn (): string => BeforeWriting::set($run, $plan));
            $staging = new Staging($order, $target, $source, $progress);
            $this->ledger->step(3, fn (): string => $this->attach($reading));
            $this->ledger->step(4, fn (): string => $this->before($plan, $journal));
            $this->ledger->step(5, fn (): string => $this->stage($staging, $journal, $progress, $source));
            $this->clearIfNothing($staging, $journal);
            $placement = new Placement($order, $target, $journal);
            $this->ledger->step(6, function () use ($plan, $order, $target, $placement, $journal): string {
                BeforeWriting::refuseIfChanged($plan, $order, $target, $journal);

                return $this->place($placement, $journal, $target);
            });
            $verification = new Verification;
            $proof = new ProofWriter($run, $plan);
            $this->ledger->step(7, function () use ($verification, $order, $target, $placement, $proof, $progress): string {
                $verification->run($order, $target, $placement, $this->leftOut, $proof->file(...), $progress);

                return sprintf(
                    '%s files, %s read again from the target',
                    number_format($verification->files),
                    $this->bytes($verification->bytes),
                );
            });
            $this->ledger->step(8, fn (): string => $this->after($plan, $order, $target, $placement, $verification, $progress));
            $this->finish($verification, $placement, $staging, $source, $proof);
        } finally {
            $points?->stores->release();
            TargetLock::free($plan->target, $plan->host);
        }
    }

    /** @throws UnableToRestore if it does not end well: then nothing is put in place */
    private function before(RestorePlan $plan, Journal $journal): string
    {
        if ($plan->before === [] || Journal::holds($journal->path, Journal::STAGED)) {
            return $plan->before === [] ? 'none was given' : 'was run before the interruption';
        }
        $command = HostCommand::run('before', $plan->before, $plan->target, $plan->commandLimit);
        $this->run->update(['outcome' => ['commands' => [$command->toArray()]] + ($this->run->outcome ?? [])]);
        if (! $command->isRight()) {
            throw UnableToRestore::targetUnfit($plan->target, (string) $command->remark());
        }

        return sprintf('ended well after %.1f s', $command->seconds);
    }

    /** What the command changes of what was found right is told apart from what was never right. */
    private function after(
        RestorePlan $plan,
        RestoreOrder $order,
        Target $target,
        Placement $placement,
        Verification $verification,
        RunProgress $progress,
    ): string {
        if ($plan->after === []) {
            return 'none was given';
        }
        $command = HostCommand::run('after', $plan->after, $plan->target, $plan->commandLimit);
        $again = new Verification;
        $again->run($order, $target, $placement, [...$this->leftOut, ...$verification->differences], fn () => null, $progress);
        $this->changedAfter = array_map(
            fn (LeftOut $left): LeftOut => new LeftOut($left->path, "{$left->because}, since the command after it", false),
            $again->differences,
        );
        $this->run->update([
            'outcome' => ['commands' => [...$this->run->outcome['commands'] ?? [], $command->toArray()]] + ($this->run->outcome ?? []),
        ]);

        return ($command->remark() ?? sprintf('ended well after %.1f s', $command->seconds)).
            '; '.
            count($again->differences).
            ' of what was right was changed by it';
    }

    /** @return array{likely: float, least: float, most: float, lanes: list<string>} */
    private function estimate(PlanOfReading $reading): array
    {
        $whole = $reading->estimate->whole;

        return [
            'likely' => round($whole->likely, 2),
            'least' => round($whole->least, 2),
            'most' => round($whole->most, 2),
            'lanes' => $reading->lanes(),
        ];
    }

    /** @throws RunMustWait if a cartridge that is needed stands on the shelf */
    private function attach(PlanOfReading $reading): string
    {
        $toFetch = Journal::holds(RunFiles::journal($this->run), Journal::STAGED) ? [] : $reading->estimate->toFetch;

        return Shelf::attach($this->run, $toFetch, $reading->media());
    }

    private function checkRoom(Target $target, int $bytes): string
    {
        $free = $target->freeBytes();
        if ($free < $bytes) {
            throw UnableToRestore::targetUnfit(
                $target->label(),
                sprintf('its volume has %s free, and %s are needed', $this->bytes($free), $this->bytes($bytes)),
            );
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
        $this->run->update([
            'outcome' => LongList::keep($this->run, LongList::LEFT_OUT, RunOutcome::rows($this->leftOut)) +
                ['read' => $staging->whatWasRead()] +
                ($this->run->outcome ?? []),
        ]);
        $journal->add(Journal::STAGED);

        return sprintf(
            '%s files, %s, each right by its digest',
            number_format($this->run->refresh()->files_done),
            $this->bytes($this->run->bytes_done),
        );
    }

    private function clearIfNothing(Staging $staging, Journal $journal): void
    {
        $lost = array_filter($this->leftOut, fn (LeftOut $left): bool => $left->isLoss);
        if (
            $lost !== [] &&
            $this->run->files_done === 0 &&
            $this->run->files_total > 0 &&
            count($lost) >= $this->run->files_total &&
            ! Journal::holds($journal->path, Journal::PLACED)
        ) {
            $staging->clear();
            throw UnableToRestore::at(
                $lost[array_key_first($lost)]->path,
                $lost[array_key_first($lost)]->because.'. Nothing else was selected, so nothing was put in place',
            );
        }
    }

    private function place(Placement $placement, Journal $journal, Target $target): string
    {
        if (! Journal::holds($journal->path, Journal::FINISHED)) {
            $placement->place();
        }

        return sprintf(
            '%d set aside or renamed, %d put beside something, %d left as they were%s',
            $placement->replaced(),
            $placement->beside(),
            count($placement->kept()),
            $target->owners()->mayGiveAway ? '' : '; owners are not given: this account cannot give files away',
        );
    }

    private function tellWhatIsLeftOut(Placement $placement): void
    {
        foreach ($placement->kept() as $path => $because) {
            $this->leftOut[] = new LeftOut((string) $path, $because, false);
        }
        foreach ($placement->withoutList() as $path => $because) {
            $this->leftOut[] = new LeftOut((string) $path, "$because; the folder itself came back", false);
        }
        foreach ($this->best->entries ?? [] as $entry) {
            if ($entry->packed === null) {
                $this->leftOut[] = new LeftOut($entry->path, "{$entry->because}, and there is no earlier version that would do", true);
            }
        }
    }

    /**
     * @param  list<array{when: string, command: list<string>, exit: int|null}>  $commands  as they were carried out
     * @return list<CheckLine>
     */
    private function checks(Verification $verification, array $commands): array
    {
        return [
            ...RunOutcome::checks($this->leftOut, count($verification->differences), 'in the catalog'),
            ...array_map(
                fn (array $command): CheckLine => CheckLine::of(
                    "the command {$command['when']} it: ".implode(' ', $command['command']),
                    $command['exit'] === 0,
                    $command['exit'] === null ? 'it did not end by itself' : "it ended with {$command['exit']}",
                ),
                $commands,
            ),
        ];
    }

    private function finish(
        Verification $verification,
        Placement $placement,
        Staging $staging,
        ContentPlaces $source,
        ProofWriter $proof,
    ): void {
        $run = $this->run;
        $read = $staging->whatWasRead() ?: ReadAmount::fromArrays($run->outcome['read'] ?? []);
        $copies = RunOutcome::copies($read);
        $this->tellWhatIsLeftOut($placement);
        $commands = $run->outcome['commands'] ?? [];
        $checks = $this->checks($verification, $commands);
        $outcome = [
            'entries' => $verification->files + $verification->folders + $verification->others,
            'files' => $verification->files,
            'bytes' => $verification->bytes,
            'placed_beside' => $placement->beside(),
            'replaced' => $placement->replaced(),
            'set_aside' => $placement->setAside(),
            'kept' => count($placement->kept()),
            ...LongList::keep($run, LongList::LEFT_OUT, RunOutcome::rows($this->leftOut)),
            ...LongList::keep($run, LongList::DIFFERENCES, RunOutcome::rows([...$verification->differences, ...$this->changedAfter])),
            'commands' => $commands,
            'read' => RunOutcome::readings($read, $copies),
            'damaged' => array_values(array_map(fn (string $because): string => $because, $source->failures)),
            'checks' => CheckLine::kept($checks),
            ...LongList::keep($run, LongList::FROM_OTHER_POINTS, $this->fromOtherPoints()),
            'right' => CheckLine::wrong($checks) === [],
        ];
        $run->update([
            'state' => 'done',
            'outcome' => $outcome,
            'ended_at' => now(),
            'set_aside_until' => $placement->setAside() > 0 ? now()->addDays(SetAsides::DAYS) : null,
        ]);
        Measurements::of($run, $read, $copies->all());
        $proof->write($outcome);
        $this->ledger->tell(
            sprintf(
                'Run %d ended: %s came back, %s.',
                $run->id,
                Words::count($verification->files, 'file'),
                $outcome['right'] ? 'all right' : 'not all right',
            ),
            'answer',
        );
    }

    /** @return iterable<array<string, mixed>> */
    private function fromOtherPoints(): iterable
    {
        foreach ($this->best->entries ?? [] as $entry) {
            if ($entry->packed !== null) {
                yield PathInJson::of($entry->path) + [
                    'state' => $entry->state,
                    'point' => $entry->from?->name,
                    'because' => $entry->because,
                ];
            }
        }
    }

    private function fail(string $because, string $state): void
    {
        $placed = 0;
        foreach (Journal::read(RunFiles::journal($this->run)) as $line) {
            $placed += $line[0] === Journal::PLACED ? 1 : 0;
        }
        $done =
            $placed === 0
                ? ' Nothing was put in place, and nothing that was there was touched.'
                : " $placed things were put in place before that; what they replaced is in the set-aside.";
        $this->ledger->fail($because, $state, $done);
    }

    /** @return list<LeftOut> */
    private static function leftOutBefore(Run $run): array
    {
        $left = [];
        foreach (LongList::all($run, LongList::LEFT_OUT) as $row) {
            $left[] = new LeftOut(PathInJson::parse($row), $row['because'], $row['loss']);
        }

        return $left;
    }

    private function bytes(int $bytes): string
    {
        return Words::size($bytes);
    }
}
