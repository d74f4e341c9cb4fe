<?php

declare(strict_types=1);

namespace App\Orders;

use App\Care\Expiry;
use App\Care\Holds;
use App\Care\KeepRules;
use App\Jobs\CarryOutRun;
use App\Jobs\PutBackRun;
use App\Kinds\Targets;
use App\Models\Consent;
use App\Models\Hold;
use App\Models\Right;
use App\Models\Role;
use App\Models\Run;
use App\Models\Store;
use App\Models\TrailEntry;
use App\Models\TrailSort;
use App\Models\User;
use App\Models\Workload;
use App\People\BrowserMark;
use App\Rights\RightsBook;
use App\Sets\CannotRegister;
use App\Sets\LeftOut;
use App\Words;
use InvalidArgumentException;
use Kaiseki\Core\Protect\Exclusion;

/** What is done to a workload, and not by a run, for which a second person is asked where the workload is marked. */
enum Deeds: string
{
    case LiftMark = 'lift-mark';

    case Keep = 'keep';

    case Delete = 'delete';

    case PutBack = 'put-back';

    case PutBackChanged = 'put-back-changed';

    case GoOn = 'go-on';

    case LiftHold = 'lift-hold';

    case Rights = 'rights';

    case LeaveOut = 'leave-out';

    /**
     * Does it.
     *
     * @param  array<string, mixed>  $detail
     * @param  User  $by  who asked for it
     * @return string what was done
     *
     * @throws CannotOrder if it is not any more what was shown
     */
    public function carryOut(Workload $workload, array $detail, User $by): string
    {
        return match ($this) {
            self::LiftMark => self::liftMark($workload, $by),
            self::Keep => self::keep($workload, $detail, $by),
            self::Delete => self::delete($workload, $detail, $by),
            self::PutBack => self::putBack($detail, $by, false),
            self::PutBackChanged => self::putBack($detail, $by, true),
            self::GoOn => self::goOn($detail, $by),
            self::LiftHold => self::liftHold($detail, $by),
            self::Rights => self::giveRights($detail, $by),
            self::LeaveOut => self::leaveOut($workload, $detail, $by),
        };
    }

    private static function liftMark(Workload $workload, User $by): string
    {
        $workload->update(['needs_approval' => false]);
        TrailEntry::add(
            "Replacing anything of {$workload->name} in place does not wait for a second person any more.",
            null,
            $by,
            sort: TrailSort::Rule,
        );

        return 'Settled: it does not wait for a second person any more.';
    }

    /** @param  array<string, mixed>  $detail */
    private static function keep(Workload $workload, array $detail, User $by): string
    {
        $store = $detail['store'] === null ? null : Store::query()->find($detail['store']);
        if ($store === null && $detail['store'] !== null) {
            throw CannotOrder::because('That store is gone.');
        }
        $rule = (string) $detail['rule'];
        try {
            KeepRules::settle($workload, $store, $rule === '' ? 'none' : $rule, (bool) $detail['every_night'], false);
        } catch (InvalidArgumentException $wrong) {
            throw CannotOrder::because($wrong->getMessage());
        }
        $where = $store->name ?? 'all other stores';
        TrailEntry::add(
            "What is kept of {$workload->name} on $where was settled: ".($rule === '' ? 'everything' : $rule).'.',
            null,
            $by,
            sort: TrailSort::Rule,
        );

        return 'The rule is settled. Nothing is deleted before you have seen what it means.';
    }

    /** @param  array<string, mixed>  $detail */
    private static function delete(Workload $workload, array $detail, User $by): string
    {
        $expiry = new Expiry($workload);
        if ($detail['plan'] !== $expiry->fingerprint()) {
            throw CannotOrder::because('What would be deleted changed since it was shown. Read it again, then confirm.');
        }
        try {
            $done = $expiry->carryOut($by, (bool) $detail['everything']);
        } catch (CannotRegister $cannot) {
            throw CannotOrder::because($cannot->getMessage());
        }
        $told = Words::count($done->copies, 'copy', 'copies').' deleted, '.Words::size($done->bytes).' freed.';

        return $done->failed === [] ? $told : throw CannotOrder::because("$told Not deleted: ".implode('; ', $done->failed));
    }

    /** @param  array<string, mixed>  $detail */
    private static function putBack(array $detail, User $by, bool $alsoChanged): string
    {
        $run = Run::query()->findOrFail($detail['run']);
        if (! $run->canBePutBack()) {
            throw CannotOrder::because('There is nothing to put back of this run.');
        }
        $run->update(['outcome' => ['put_back' => ['state' => 'asked', 'by' => $by->name]] + ($run->outcome ?? [])]);
        TrailEntry::add(
            "Run {$run->id} is to be put back".($alsoChanged ? ', also what somebody changed since.' : '.'),
            $run->request,
            $by,
            $run,
            sort: TrailSort::Order,
        );
        PutBackRun::dispatch($run->id, $alsoChanged);

        return 'It is being put back.';
    }

    /** @param  array<string, mixed>  $detail */
    private static function goOn(array $detail, User $by): string
    {
        $run = Run::query()->findOrFail($detail['run']);
        if (! $run->canBeGoneOnWith() || in_array($run->request?->state, ['closed', 'running'], true)) {
            throw CannotOrder::because('This run cannot be gone on with.');
        }
        $run->update(['user_id' => $by->id]); // who sets it going must be one who may reach its target
        $run->goOn();
        $run->request?->update(['state' => 'running']);
        TrailEntry::add("Run {$run->id} is gone on with.", $run->request, $by, $run, sort: TrailSort::Order);
        CarryOutRun::dispatch($run->id);

        return 'It is gone on with.';
    }

    /** @param  array<string, mixed>  $detail */
    private static function liftHold(array $detail, User $by): string
    {
        $hold = Hold::query()->with('set')->findOrFail($detail['hold']);
        if ($hold->lifted_at !== null) {
            throw CannotOrder::because('It is lifted already.');
        }
        (new Holds)->lift($hold, $by);

        return 'The hold is lifted.';
    }

    /** @param  array<string, mixed>  $detail */
    private static function giveRights(array $detail, User $by): string
    {
        $target = Targets::find((string) $detail['sort'], (int) $detail['target']) ?? throw CannotOrder::because('That target is gone.');
        $rights = array_map(Right::from(...), array_values((array) $detail['rights']));

        return RightsBook::settle($target, (string) $detail['group'], Role::from((string) $detail['role']), $rights, $by);
    }

    /** @param  array<string, mixed>  $detail */
    private static function leaveOut(Workload $workload, array $detail, User $by): string
    {
        try {
            LeftOut::add($workload, Exclusion::of((string) $detail['pattern'], (string) $detail['because']), $by);
        } catch (InvalidArgumentException $wrong) {
            throw CannotOrder::because($wrong->getMessage());
        }

        return 'It is left out of the sets that are made from now on; those that are there keep it.';
    }

    /**
     * Does it at once, or asks a second person where the workload is marked.
     *
     * @param  array<string, mixed>  $detail
     * @param  string  $words  what it does, as a sentence
     *
     * @throws CannotOrder
     */
    public function doOrAsk(Workload $workload, array $detail, string $words, User $by): string
    {
        if (! $workload->needs_approval) {
            return $this->carryOut($workload, $detail, $by);
        }
        $own = ['workload_id' => $workload->id, 'deed' => $this->value, 'asked_by' => $by->id];
        Consent::query()
            ->where($own)
            ->where('state', 'asked')
            ->update(['state' => 'withdrawn'] + Consents::by($by));
        Consent::query()->create($own + [
            'detail' => $detail,
            'words' => mb_strcut($words, 0, 1000),
            'asked_at' => now(),
            'asked_from' => BrowserMark::current(),
        ]);
        TrailEntry::add("{$by->name} asked for a second person: $words", null, $by, sort: TrailSort::Order);

        return "{$workload->name} is marked: a second person must say yes first. It is asked for, and stands on their desk.";
    }
}
