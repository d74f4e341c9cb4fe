<?php

declare(strict_types=1);

namespace App\Orders;

use App\Alarms\AlarmBook;
use App\Alarms\Cause;
use App\Jobs\CarryOutRun;
use App\Jobs\SendAlarms;
use App\Kinds\Kinds;
use App\Kinds\OrderSheet;
use App\Models\AlarmSort;
use App\Models\Approval;
use App\Models\RecoveryRequest;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Models\TrailSort;
use App\Models\User;
use App\Models\Workload;
use App\People\BrowserMark;
use Illuminate\Support\Facades\DB;

/** Orders that begin, at once or after a second person saw them. Each is done in one transaction, with its request locked. */
final class Approvals
{
    public const SAME_BROWSER = 'It was asked for from this very browser: the second person decides in one of their own.';

    /**
     * Begins a run, or asks for an approval where one is needed.
     *
     * @param  string  $order  the fingerprint that the person saw
     *
     * @throws CannotOrder
     */
    public static function order(RecoveryRequest $request, User $by, string $order, bool $setFirst): Run|Approval
    {
        return self::asSeen($request, $order, $by, fn (OrderSheet $sheet): Run|Approval => $sheet->needsApproval()
            ? self::ask($sheet, $by, $setFirst)
            : self::begin($sheet, $by, $setFirst));
    }

    /**
     * Begins without the second person, after a wait in which anybody can stop it: the alarm is raised at once. It stays listed until
     * somebody else has reviewed it.
     *
     * @throws CannotOrder
     */
    public static function override(RecoveryRequest $request, User $by, string $order, string $reason, bool $setFirst): Run
    {
        $begin = function (OrderSheet $sheet, RecoveryRequest $request) use ($by, $reason, $setFirst): Run {
            if (! $sheet->needsApproval()) {
                throw CannotOrder::because('Nobody need be asked for this: run it.');
            }
            if ($sheet->touches()->duty !== null) {
                throw CannotOrder::because('This takes two people, however long it has to wait.');
            }
            $wait = max([0, ...array_map(fn (Workload $workload): int => $workload->override_wait_min, $sheet->marked())]);
            $run = self::begin($sheet, $by, $setFirst, $wait);
            self::withdrawOpen($request, $by);
            $overridden = self::row($sheet, $by, $setFirst, [
                'state' => 'overridden',
                'run_id' => $run->id,
                'decided_by' => $by->id,
                'decided_at' => now(),
                'words' => $reason,
            ]);
            TrailEntry::add(
                "Run {$run->id} was begun without approval, and waits $wait min. Reason: $reason",
                $request,
                $by,
                $run,
                sort: TrailSort::Order,
            );
            $what = "Run {$run->id} of request {$request->id} was ordered by {$by->name} without approval";
            AlarmBook::raise(new Cause(
                AlarmSort::Override,
                "approval {$overridden->id}",
                "$what, and begins in $wait min unless somebody stops it. Reason: $reason",
                "/approvals/{$overridden->id}",
                $request->workload_id,
            ));
            SendAlarms::dispatch()->afterCommit();

            return $run;
        };

        return self::asSeen($request, $order, $by, $begin);
    }

    /**
     * @param  string|null  $seen  the fingerprint of the order that they say yes to; null for a no
     * @param  string|null  $words  needed for a no
     *
     * @throws CannotOrder if it was decided already, or is another order now
     */
    public static function decide(Approval $approval, User $by, ?string $seen, ?string $words): ?Run
    {
        return self::locked($approval->request, function (RecoveryRequest $request) use ($approval, $by, $seen, $words): ?Run {
            $approval->refresh();
            if ($approval->state !== 'asked') {
                throw CannotOrder::because("This was {$approval->state} already.");
            }
            if ($approval->asked_by === $by->id) {
                throw CannotOrder::because('Somebody else must decide this: you asked for it.');
            }
            if ($seen !== null && BrowserMark::isThisOne($approval->asked_from)) {
                throw CannotOrder::because(self::SAME_BROWSER);
            }
            if ($seen !== null && $seen !== $approval->order) {
                throw CannotOrder::because('Another order was shown than the one that is asked for now. Read it again, then decide.');
            }
            if ($approval->duty !== null && ! $by->hasDuty($approval->duty)) {
                throw CannotOrder::because("Whoever decides this may {$approval->duty->words()}: an administrator says who may.");
            }
            $decided = ['decided_by' => $by->id, 'decided_at' => now(), 'words' => $words];
            if ($seen === null) {
                $approval->update(['state' => 'refused'] + $decided);
                TrailEntry::add("{$by->name} refused: $words", $request, $by, sort: TrailSort::Order);

                return null;
            }
            $run = self::begin(self::sheet($request, $approval->order, $approval->asker), $approval->asker, $approval->set_first);
            $approval->update(['state' => 'approved', 'run_id' => $run->id] + $decided);
            TrailEntry::add(
                "{$by->name} approved run {$run->id}, as order ".substr($approval->order, 0, 16).'.'.($words === null ? '' : " $words"),
                $request,
                $by,
                $run,
                sort: TrailSort::Order,
            );

            return $run;
        });
    }

    /** @throws CannotOrder */
    public static function review(Approval $approval, User $by, string $words): void
    {
        if (! $approval->isToBeReviewed() || $approval->asked_by === $by->id) {
            throw CannotOrder::because(
                $approval->asked_by === $by->id ? 'Somebody else must review this: you began it.' : 'There is nothing to review.',
            );
        }
        $approval->update(['reviewed_by' => $by->id, 'reviewed_at' => now(), 'review_words' => $words]);
        TrailEntry::add(
            "{$by->name} reviewed run {$approval->run_id}, which was begun without approval: $words",
            $approval->request,
            $by,
            sort: TrailSort::Order,
        );
    }

    public static function withdraw(Approval $approval, User $by): void
    {
        self::withdrawOpen($approval->request, $by);
    }

    private static function withdrawOpen(RecoveryRequest $request, User $by): void
    {
        if (
            Approval::query()
                ->where('request_id', $request->id)
                ->where('state', 'asked')
                ->update(['state' => 'withdrawn', 'decided_by' => $by->id, 'decided_at' => now()]) > 0
        ) {
            TrailEntry::add('The question for approval was withdrawn.', $request, $by, sort: TrailSort::Order);
        }
    }

    private static function ask(OrderSheet $sheet, User $by, bool $setFirst): Approval
    {
        self::withdrawOpen($sheet->request(), $by);
        $approval = self::row($sheet, $by, $setFirst, ['state' => 'asked']);
        TrailEntry::add("{$by->name} asked for approval: {$approval->sentence}", $sheet->request(), $by, sort: TrailSort::Order);

        return $approval;
    }

    /** @param  array<string, mixed>  $more */
    private static function row(OrderSheet $sheet, User $by, bool $setFirst, array $more): Approval
    {
        return Approval::query()->create(
            [
                'request_id' => $sheet->request()->id,
                'workload_id' => $sheet->request()->workload_id,
                'order' => $sheet->fingerprint(),
                'duty' => $sheet->touches()->duty,
                'sentence' => $sheet->sentence('UTC'),
                'set_first' => $setFirst,
                'preview' => $sheet->previewCounts(),
                'asked_by' => $by->id,
                'asked_at' => now(),
                'asked_from' => BrowserMark::current(),
            ] + $more,
        );
    }

    /** @param  int  $wait  minutes */
    private static function begin(OrderSheet $sheet, User $by, bool $setFirst, int $wait = 0): Run
    {
        $request = $sheet->request();
        $later = $request->starts_at?->isFuture() === true ? $request->starts_at : null;
        $least = now()->toImmutable()->addMinutes($wait);
        $later = $wait > 0 && ($later === null || $later->lessThan($least)) ? $least : $later;
        $run = Run::query()->create(
            [
                'request_id' => $request->id,
                'workload_id' => $request->workload_id,
                'user_id' => $by->id,
                'state' => 'queued',
                'starts_at' => $later,
            ] + $sheet->runAttributes($setFirst),
        );
        $request->update(['state' => 'running', 'operator_id' => $by->id, 'starts_at' => null]);
        TrailEntry::add(
            "Run {$run->id} was ordered".
                ($later === null ? '' : " for {$later->utc()->format('Y-m-d H:i')} UTC").
                ": {$run->plan['sentence']}",
            $request,
            $by,
            $run,
            sort: TrailSort::Order,
        );
        if ($run->taken_as === null) {
            CarryOutRun::dispatch($run->id)->delay($later)->afterCommit();
        }

        return $run;
    }

    /** @throws CannotOrder if something stands in the way, or it is not the order that was seen */
    private static function sheet(RecoveryRequest $request, string $order, User $by): OrderSheet
    {
        $sheet = Kinds::ofRequest($request)->sheet($request);
        $refused = $sheet->refusedTo($by);
        if ($refused !== null) {
            throw CannotOrder::because($refused);
        }
        $sheet->lookAgain();
        if ($sheet->blockers() !== []) {
            throw CannotOrder::because($sheet->blockers()[0]);
        }
        if ($order !== $sheet->fingerprint()) {
            throw CannotOrder::because('The order, or what stands in its target, changed since it was shown. Read it again, then confirm.');
        }

        return $sheet;
    }

    /**
     * Works on the order that somebody saw, if it is that still. If not, what was found out about its target meanwhile is kept.
     *
     * @template T
     *
     * @param  callable(OrderSheet, RecoveryRequest): T  $work
     * @return T
     *
     * @throws CannotOrder
     */
    private static function asSeen(RecoveryRequest $request, string $order, User $by, callable $work): mixed
    {
        $came = self::locked($request, function (RecoveryRequest $request) use ($order, $by, $work): mixed {
            try {
                $sheet = self::sheet($request, $order, $by);
            } catch (CannotOrder $cannot) {
                return $cannot; // thrown in here it would take back what was looked at
            }

            return $work($sheet, $request);
        });

        return $came instanceof CannotOrder ? throw $came : $came;
    }

    /**
     * @template T
     *
     * @param  callable(RecoveryRequest): T  $work
     * @return T
     */
    private static function locked(RecoveryRequest $request, callable $work): mixed
    {
        // Two confirmations at once are one run.
        return DB::transaction(fn (): mixed => $work(RecoveryRequest::query()->lockForUpdate()->findOrFail($request->id)));
    }
}
