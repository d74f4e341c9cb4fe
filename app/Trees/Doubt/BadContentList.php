<?php

declare(strict_types=1);

namespace App\Trees\Doubt;

use App\Models\BackupSet;
use App\Models\SetSign;
use App\Models\Workload;
use Illuminate\Support\Facades\DB;
use InvalidArgumentException;

/** Digests of contents that are known to be harmful, and what of them lies in sets. */
final class BadContentList
{
    private const CHUNK = 500;

    /**
     * @param  list<string>  $lines  64 hexadecimal digits each, and a name
     * @return array{int, list<string>} digests taken; the sets at which one of them first showed
     *
     * @throws InvalidArgumentException
     */
    public function take(array $lines): array
    {
        $digests = [];
        foreach ($lines as $number => $line) {
            if (preg_match('/^([0-9a-f]{64})(?:\s+\*?(.*))?$/Di', trim($line), $m) !== 1) {
                throw new InvalidArgumentException(
                    'Line '.($number + 1).' does not begin with a BLAKE2b-256 digest of 64 hexadecimal digits.',
                );
            }
            $digests[strtolower($m[1])] = mb_substr(mb_scrub($m[2] ?? ''), 0, 300);
        }
        $found = [];
        foreach (array_chunk($digests, self::CHUNK, true) as $chunk) {
            DB::table('bad_contents')->upsert(
                array_map(fn (string $digest, string $name): array => ['digest' => $digest, 'name' => $name], array_keys($chunk), $chunk),
                ['digest'],
                ['name'],
            );
            foreach ($this->firstShownAt($chunk) as $set) {
                $found[$set] = true;
            }
        }

        return [count($digests), array_map(strval(...), array_keys($found))];
    }

    /**
     * @param  array<array-key, string>  $digests  hex => name
     * @return list<string> names of sets
     */
    private function firstShownAt(array $digests): array
    {
        $list = implode(',', array_map(fn (int|string $digest): string => "x'$digest'", array_keys($digests)));
        $sets = $workloads = [];
        foreach (
            DB::select(
                "SELECT v.digest, v.history_id, MIN(v.first) AS first FROM versions v WHERE v.digest IN ($list) GROUP BY v.history_id, ".
                    'v.digest ORDER BY first',
            ) as $row
        ) {
            $set = BackupSet::query()->with('workload')->where('history_id', $row->history_id)->where('instant', $row->first)->first();
            if ($set === null) {
                continue;
            }
            $doubts =
                BackupSet::query()->where('history_id', $set->history_id)->where('instant', '<=', $set->instant)->count() >=
                \Kaiseki\Core\Doubt\SignReader::SETS_BEFORE_DOUBT;
            $hex = bin2hex($row->digest);
            SetSign::query()->firstOrCreate(
                [
                    'set_id' => $set->id,
                    'kind' => 'known-bad',
                    'words' => 'It holds a content that is on the list of harmful ones'.
                        ($digests[$hex] === '' ? '' : ": {$digests[$hex]}").
                        ' ('.
                        substr($hex, 0, 16).
                        '...).',
                ],
                ['doubts' => $doubts, 'figures' => ['digest' => $hex]],
            );
            if ($doubts) {
                DB::insert(
                    "INSERT IGNORE INTO doubts (workload_id, digest, path_id, set_id, kind) VALUES (?, x'$hex', 0, ?, 'known-bad')",
                    [$set->workload_id, $set->id],
                );
            }
            $sets[] = $set->name;
            $workloads[$set->workload_id] = $set->workload;
        }
        foreach ($workloads as $workload) {
            assert($workload instanceof Workload);
            (new DoubtBook)->recount($workload);
        }

        return $sets;
    }
}
