<?php

declare(strict_types=1);

namespace App\Kinds\Databases;

use App\Kinds\Databases\Intake\DumpFacts;
use App\Kinds\Databases\Order\CannotRestore;
use App\Kinds\Databases\Order\DatabaseHandSheet;
use App\Kinds\Databases\Order\DatabasePoints;
use App\Kinds\Databases\Order\Stop;
use App\Kinds\Databases\Run\WorkMeasurements;
use App\Kinds\Given;
use App\Kinds\Judge;
use App\Kinds\Usability;
use App\Models\BackupSet;
use App\Sets\Points;
use App\Sets\SetOutline;
use App\Words;
use Closure;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Database\LogFacts;
use Kaiseki\Core\Database\WayEstimate;

/** A dump or a log needs every set of its chain: nothing else holds what is in them. */
final class DatabaseJudge implements Judge
{
    private ?int $hurt = null;

    public function __construct(private readonly Points $points)
    {
    }

    public function needsConsistency(): bool
    {
        return true;
    }

    public function usability(SetOutline $set): Usability
    {
        $because = $this->points->brokenChain($set);

        return $because === null ? Usability::whole() : Usability::no($because);
    }

    public function hurt(): int
    {
        return $this->hurt ??= count(
            array_filter($this->points->sets, fn (SetOutline $set): bool => $this->points->brokenChain($set) !== null),
        );
    }

    public function bridged(SetOutline $set): ?SetOutline
    {
        return null;
    }

    public function blockages(?array $wanted): Closure
    {
        return $this->points->brokenChain(...);
    }

    public function doubts(?array $wanted): Closure
    {
        return fn (SetOutline $set): string => 'it is in doubt: see its signs';
    }

    /** The dump loaded, the logs rolled forward, and what came of it brought to its place. */
    public function restoreSeconds(SetOutline $set): float
    {
        $ids = array_map(fn (SetOutline $one): int => $one->id, $this->points->chain($set->name));
        $sums = DB::table('sets')
            ->whereIn('id', $ids)
            ->selectRaw(
                "COALESCE(SUM(tree_bytes), 0) AS dump, COALESCE(SUM(IF(level = 'log', entries, 0)), 0) AS transactions,".
                    " COALESCE(SUM(IF(level = 'log', JSON_VALUE(facts, '$.wholeUntil'), 0)), 0) AS logs",
            )
            ->first();

        return WayEstimate::whole(
            (int) $sums->dump,
            (int) $sums->dump,
            (int) $sums->logs,
            (int) $sums->transactions,
            false,
            WorkMeasurements::now(),
        )->whole->likely;
    }

    public function gives(BackupSet $set): array
    {
        $usability = $this->usability($this->points->sets[$set->id]);
        $isLog = $set->level === 'log';

        return [
            ...$isLog ? $this->ofLog($set, $usability) : $this->ofDump($set, $usability),
            new Given(
                'files, mail, machines',
                false,
                'this is '.($isLog ? 'a binary log' : 'a dump').' of a database: it holds rows and definitions',
            ),
        ];
    }

    /** @return list<Given> */
    private function ofDump(BackupSet $set, Usability $usability): array
    {
        $facts = DumpFacts::ofSet($set);
        $schemas = array_filter(array_map(strval(...), array_keys($facts->schemas)), fn (string $name): bool => $name !== '');
        $can = $usability->isWhole();
        $held =
            $schemas === []
                ? 'which they are it does not say'
                : implode(', ', $schemas).'; '.Words::count(count($facts->tables()), 'table');

        return [
            new Given('whole schemas', $can, $usability->because ?? $held),
            new Given(
                'single tables',
                $can && $facts->hasComments,
                $usability->because ??
                    ($facts->hasComments ? 'with their keys, triggers and views' : 'the dump does not tell its tables apart'),
            ),
            new Given(
                'single rows, by their keys',
                $can,
                $usability->because ?? 'where the table has a key, and the logs name what touched it',
            ),
            new Given(
                'any moment after it',
                $facts->position() !== null,
                $facts->position() === null
                    ? 'it has no position in the binary logs: nothing is rolled forward from it'
                    : "as far as the logs go from {$facts->position()->text()}",
            ),
            new Given(
                'one moment for all tables',
                $facts->isOneMoment(),
                $facts->isOneMoment()
                    ? 'read in one transaction, at one position of the logs'
                    : 'not known: tables were perhaps read one after the other',
            ),
        ];
    }

    /** @return list<Given> */
    private function ofLog(BackupSet $set, Usability $usability): array
    {
        $facts = LogFacts::fromArray($set->facts ?? []);
        $can = $usability->isWhole();

        return [
            new Given(
                'any moment within it',
                $can,
                $usability->because ?? Words::count($facts->transactions, 'transaction').', rolled forward on the dump below it',
            ),
            new Given('rows that a transaction touched', $facts->transactions > 0, 'as they were before it, where the log has whole rows'),
            new Given(
                'all that was committed',
                $facts->problem === null && $facts->isClosed,
                match (true) {
                    $facts->problem !== null => "this log {$facts->problem}",
                    ! $facts->isClosed => 'it was still being written when it was taken',
                    default => 'it was closed by the server',
                },
            ),
        ];
    }

    public function writeNightSheet(SetOutline $point, array $archives, string $folder): string
    {
        $workload = $this->points->workload;
        $databases = new DatabasePoints($workload);
        try {
            $reaches = $databases->reach(Stop::newest(), $databases->schemas());
        } catch (CannotRestore $cannot) {
            return "{$workload->name}: {$cannot->getMessage()}";
        }
        $sheet = "hand-sheet-{$workload->name}.sh";
        file_put_contents("$folder/$sheet", (new DatabaseHandSheet($databases, $reaches, [], '"$here"/../'))->script());

        return "$sheet: {$workload->name} as its logs end, ".
            count($archives).
            ' archives; it is run with the options of mariadb for an empty server.';
    }
}
