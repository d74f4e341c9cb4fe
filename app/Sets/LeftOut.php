<?php

declare(strict_types=1);

namespace App\Sets;

use App\Kinds\CanLeaveOut;
use App\Kinds\Kinds;
use App\Models\BackupSet;
use App\Models\TrailEntry;
use App\Models\TrailSort;
use App\Models\User;
use App\Models\Workload;
use Illuminate\Support\Facades\DB;
use InvalidArgumentException;
use Kaiseki\Core\Protect\Exclusion;
use Kaiseki\Core\Protect\Exclusions;

/** What the sets of a workload leave out on purpose. */
final class LeftOut
{
    /** In the facts of a set: what it left out. */
    public const FACT = 'excluded';

    /** Of sets that are made from now on. */
    public static function of(Workload $workload): Exclusions
    {
        $rows = DB::table('exclusions')->where('workload_id', $workload->id)->orderBy('pattern')->get(['pattern', 'because']);

        return Exclusions::ofRecord($rows->map(fn (object $row): array => (array) $row)->all());
    }

    /** Of a set that was made. */
    public static function ofSet(BackupSet $set): Exclusions
    {
        return Exclusions::ofRecord($set->facts[self::FACT] ?? null);
    }

    /** @throws InvalidArgumentException if nothing can be left out of sets of it */
    public static function refuseUnfit(Workload $workload): void
    {
        $source = Kinds::of($workload)->source($workload);
        if (! $source instanceof CanLeaveOut || ! $source->isKnown()) {
            throw new InvalidArgumentException(
                "What sets of {$workload->name} leave out is not settled here: only where this desk reads a folder or mailboxes itself.",
            );
        }
    }

    /** @throws InvalidArgumentException */
    public static function add(Workload $workload, Exclusion $one, ?User $by): void
    {
        self::refuseUnfit($workload);
        self::of($workload)->with($one);
        DB::table('exclusions')->upsert(
            ['workload_id' => $workload->id, 'created_at' => now(), 'updated_at' => now()] + $one->toArray(),
            ['workload_id', 'pattern'],
            ['because', 'updated_at'],
        );
        $told = "Sets of {$workload->name} leave out from now on: {$one->words()}.";
        TrailEntry::add($told, null, $by, sort: TrailSort::Rule, workload: $workload);
    }

    /** @throws InvalidArgumentException if it is not left out */
    public static function end(Workload $workload, string $pattern, ?User $by): void
    {
        if (DB::table('exclusions')->where(['workload_id' => $workload->id, 'pattern' => $pattern])->delete() === 0) {
            throw new InvalidArgumentException("Sets of {$workload->name} do not leave out \"$pattern\".");
        }
        $told = "Sets of {$workload->name} do not leave out \"$pattern\" any more.";
        TrailEntry::add($told, null, $by, sort: TrailSort::Rule, workload: $workload);
    }
}
