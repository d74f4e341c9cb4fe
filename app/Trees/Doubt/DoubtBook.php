<?php

declare(strict_types=1);

namespace App\Trees\Doubt;

use App\Models\BackupSet;
use App\Models\SetSign;
use App\Models\TrailEntry;
use App\Models\User;
use App\Models\Verdict;
use App\Models\Workload;
use App\Trees\Catalog\PathKeys;
use App\Trees\Places\DoubtfulContent;
use App\Trees\Places\SpanCount;
use DateTimeZone;
use Illuminate\Support\Facades\DB;
use InvalidArgumentException;
use Kaiseki\Core\Catalog\Shown;
use Kaiseki\Core\Catalog\Tree;
use Kaiseki\Core\Doubt\ChangeMeasures;
use Kaiseki\Core\Doubt\SetFacts;
use Kaiseki\Core\Doubt\Sign;
use Kaiseki\Core\Doubt\SignReader;
use stdClass;

/** Takes down the signs of each set as it is cataloged, and which contents came into doubt with it. */
final class DoubtBook
{
    /** The sign of a set whose file systems were checked. */
    public const FILE_SYSTEMS = 'file-systems';

    private const ROWS = 500;

    /** Contents no longer than this may be the same by chance; doubt about them stays with their path. */
    private const SHORT = 64;

    /** Looked back at for what is usual. */
    private const EARLIER = 120;

    /**
     * @param  Tree|null  $before  the tree of the set before it in its history
     * @param  list<array{string, string}>|null  $testFiles  path and digest; null if its archive was not read now, and what was found in
     *     it holds
     * @param  list<string>  $stored  digests of the contents that its archive holds
     */
    public function take(BackupSet $set, Tree $tree, ?Tree $before, ?array $testFiles = null, array $stored = []): void
    {
        $measures = ChangeMeasures::between($tree, $before);
        $set->measures = $measures->figures();
        $set->save();
        $earlier = $this->earlier($set);
        $reader = new SignReader($this->facts($set), $earlier, $measures);
        $signs = $reader->signs();
        $mayDoubt = $reader->mayDoubt();
        foreach ($testFiles ?? [] as [$path, $digest]) {
            $signs[] = new Sign(
                'test-file',
                $mayDoubt,
                'It holds the harmless file that scanners are tested with: "'.Shown::name($path).'".',
                [],
                [$path => $digest],
            );
        }
        foreach ($this->knownBad($stored) as $digest => $name) {
            $signs[] = new Sign(
                'known-bad',
                $mayDoubt,
                'It holds a content that is on the list of harmful ones'.
                    ($name === '' ? '' : ": $name").
                    ' ('.
                    substr($digest, 0, 16).
                    '...).',
                ['digest' => $digest],
                ['' => (string) hex2bin($digest)],
            );
        }
        $this->write($set, $signs, $tree, $testFiles === null ? ['test-file', 'known-bad'] : []);
        $this->recount($set->workload, $set);
    }

    /**
     * A person knows better than the signs.
     *
     * @param  string  $verdict  good, doubt or none
     *
     * @throws InvalidArgumentException
     */
    public function overrule(BackupSet $set, string $verdict, string $reason, ?User $by): void
    {
        if (! in_array($verdict, ['good', 'doubt', 'none'], true)) {
            throw new InvalidArgumentException("\"$verdict\" is not a verdict. Verdicts are good, doubt, and none to take one back.");
        }
        if (trim($reason) === '') {
            throw new InvalidArgumentException('Say why: the reason is kept with the verdict.');
        }
        DB::transaction(function () use ($set, $verdict, $reason, $by): void {
            Verdict::query()->create([
                'set_id' => $set->id,
                'verdict' => $verdict,
                'reason' => mb_substr(trim($reason), 0, 1000),
                'user_id' => $by?->id,
                'at' => now(),
            ]);
            DB::delete("DELETE FROM doubts WHERE set_id = ? AND kind = 'verdict'", [$set->id]);
            if ($verdict === 'doubt') {
                // What first showed at this set.
                DB::insert(
                    'INSERT IGNORE INTO doubts (workload_id, digest, path_id, set_id, kind) SELECT ?, digest, IF(size > ?, 0, path_id), '.
                        "?, 'verdict' FROM versions WHERE history_id = ? AND first = ? AND kind = 'f' AND digest IS NOT NULL",
                    [$set->workload_id, self::SHORT, $set->id, $set->history_id, $set->instant],
                );
            }
            $this->recount($set->workload);
        });
        TrailEntry::add(
            "{$set->name} was judged ".['good' => 'good', 'doubt' => 'in doubt', 'none' => 'by its signs again'][$verdict].": $reason",
            null,
            $by,
        );
    }

    /** @return list<SetFacts> oldest first */
    private function earlier(BackupSet $set): array
    {
        $zone = new DateTimeZone($set->workload->zone);
        $rows = DB::select(
            'SELECT s.id, s.level, s.bytes, s.captured_at, s.measures, s.made_in_s, EXISTS (SELECT 1 FROM signs WHERE set_id = s.id
                AND doubts) AS doubted FROM sets s
             WHERE s.history_id = ? AND s.instant < ? ORDER BY s.instant DESC LIMIT '.self::EARLIER,
            [$set->history_id, $set->instant],
        );

        return array_map(
            fn (stdClass $row): SetFacts => new SetFacts(
                $row->level,
                (int) (new \DateTimeImmutable($row->captured_at.' UTC'))->setTimezone($zone)->format('N'),
                (int) $row->bytes,
                (array) json_decode((string) $row->measures, true),
                $row->made_in_s === null ? null : (float) $row->made_in_s,
                (bool) $row->doubted,
            ),
            array_reverse($rows),
        );
    }

    private function facts(BackupSet $set): SetFacts
    {
        return new SetFacts(
            $set->level,
            (int) $set->captured_at->setTimezone($set->workload->zone)->format('N'),
            $set->bytes,
            $set->measures ?? [],
            $set->made_in_s,
        );
    }

    /**
     * @param  list<Sign>  $signs
     * @param  list<string>  $kept  kinds
     */
    private function write(BackupSet $set, array $signs, Tree $tree, array $kept): void
    {
        SetSign::query()->where('set_id', $set->id)->whereNotIn('kind', $kept)->delete();
        DB::table('doubts')
            ->where('set_id', $set->id)
            ->whereNotIn('kind', [...$kept, 'verdict'])
            ->delete();
        foreach ($signs as $sign) {
            SetSign::query()->create([
                'set_id' => $set->id,
                'kind' => $sign->kind,
                'doubts' => $sign->doubts,
                'figures' => $sign->figures,
                'words' => mb_scrub(mb_strcut($sign->words, 0, 1000)),
            ]);
            if ($sign->doubts) {
                $this->writeContents($set, $sign, $tree);
            }
        }
    }

    private function writeContents(BackupSet $set, Sign $sign, Tree $tree): void
    {
        $rows = [];
        foreach ($sign->contents as $path => $digest) {
            $packed = $tree->at((string) $path);
            $short = $packed !== null && \Kaiseki\Core\Catalog\Version::bytesOf($packed) <= self::SHORT;
            $rows[] =
                "({$set->workload_id},x'".
                bin2hex($digest).
                "',".
                ($short ? PathKeys::path($set->workload_id, (string) $path) : 0).
                ",{$set->id},'{$sign->kind}')";
        }
        foreach (array_chunk($rows, self::ROWS) as $chunk) {
            DB::insert('INSERT IGNORE INTO doubts (workload_id, digest, path_id, set_id, kind) VALUES '.implode(',', $chunk));
        }
    }

    /**
     * @param  list<string>  $stored
     * @return array<string, string> digest, hex => name
     */
    private function knownBad(array $stored): array
    {
        if (! DB::table('bad_contents')->exists()) {
            return [];
        }
        $found = [];
        foreach (array_chunk($stored, self::ROWS) as $chunk) {
            $found += DB::table('bad_contents')
                ->whereIn('digest', array_map(bin2hex(...), $chunk))
                ->pluck('name', 'digest')
                ->map(fn (?string $name): string => $name ?? '')
                ->all();
        }

        return $found;
    }

    /**
     * Brings what each set says of its doubt up to date.
     *
     * @param  BackupSet|null  $only  the one that came, if nothing else changed
     */
    public function recount(Workload $workload, ?BackupSet $only = null): void
    {
        $hasDoubts = DB::table('doubts')->where('workload_id', $workload->id)->exists();
        if ($only !== null && ! $hasDoubts && ! SetSign::query()->where('set_id', $only->id)->where('doubts', true)->exists()) {
            return;
        }
        $spans = new SpanCount;
        foreach ($hasDoubts ? DoubtfulContent::rowsOf($workload) : [] as $row) {
            $spans->add((int) $row->history_id, (int) $row->first, (int) $row->until);
        }
        $sets = DB::select(
            "SELECT s.id, s.history_id, s.instant, s.in_doubt, s.doubtful, COALESCE((SELECT verdict FROM verdicts WHERE set_id = s.id
                ORDER BY id DESC LIMIT 1), 'none') AS verdict,
             EXISTS (SELECT 1 FROM signs g WHERE g.set_id = s.id AND g.doubts AND g.kind IN ('fewer', '".
                self::FILE_SYSTEMS.
                "')) AS lacks FROM sets s
             WHERE s.workload_id = ? ORDER BY s.instant",
            [$workload->id],
        );
        $counts = $spans->at(
            array_column(
                array_map(fn (stdClass $set): array => [(int) $set->id, [(int) $set->history_id, (int) $set->instant]], $sets),
                1,
                0,
            ),
        );
        foreach ($sets as $set) {
            $doubtful = $counts[(int) $set->id] ?? 0;
            $inDoubt = match ($set->verdict) {
                'good' => false,
                'doubt' => true,
                default => $doubtful > 0 || $set->lacks,
            };
            if ($doubtful !== (int) $set->doubtful || $inDoubt !== (bool) $set->in_doubt) {
                DB::update('UPDATE sets SET doubtful = ?, in_doubt = ? WHERE id = ?', [$doubtful, $inDoubt, $set->id]);
            }
        }
        $only?->refresh();
    }
}
