<?php

declare(strict_types=1);

namespace App\Trees\Catalog;

use App\Models\Workload;
use App\Sets\Points;
use App\Sets\SetOutline;
use App\Trees\Places\ContentPlaces;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Archive\ContentDigest;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Content\Form;
use Kaiseki\Core\Files\ArchiveReading;
use Kaiseki\Core\Files\ContentPlace;
use Kaiseki\Core\Files\SpooledContent;
use stdClass;

/** The words in the contents of a workload, taken out of its archives after they were cataloged. See docs/decisions/0017-search.md. */
final class TextIndex
{
    /** Larger ones are data more often than words. */
    private const LARGEST = 8 << 20;

    /** Of each content so much text is kept. */
    private const WORDS = 512 << 10;

    private const AT_ONCE = 500;

    private const ROWS = 50;

    /**
     * Looks into what was cataloged since the last time.
     *
     * @param  (callable(int): void)|null  $progress  told contents looked into
     * @return int contents looked into
     */
    public static function bringUpToDate(Workload $workload, ?callable $progress = null): int
    {
        $points = new Points($workload);
        $all = 0;
        try {
            do {
                $after = self::mark($workload->id);
                $rows = DB::select(
                    'SELECT v.id, v.first, v.history_id, v.size, v.digest, p.name FROM versions v JOIN paths p ON p.id = v.path_id LEFT
                        JOIN texts t ON t.digest = v.digest
                     WHERE v.id > ? AND p.workload_id = ? AND v.kind = \'f\' AND v.size BETWEEN 1 AND ? AND v.digest IS NOT NULL
                     AND t.digest IS NULL ORDER BY v.id LIMIT ?',
                    [$after, $workload->id, self::LARGEST, self::AT_ONCE],
                );
                $wanted = array_filter($rows, fn (stdClass $row): bool => Form::mayHoldText($row->name));
                $all += (new self($points))->take($wanted);
                $last = count($rows) < self::AT_ONCE ? (int) DB::scalar('SELECT COALESCE(MAX(id), 0) FROM versions') : (int) end($rows)->id;
                DB::statement('REPLACE INTO text_marks VALUES (?, ?)', [$workload->id, $last]);
                if ($progress !== null) {
                    $progress($all);
                }
            } while (count($rows) === self::AT_ONCE);
        } finally {
            $points->stores->release();
        }

        return $all;
    }

    /** Whether something was cataloged since it was brought up to date. */
    public static function isBehind(int $workload): bool
    {
        return DB::selectOne(
            'SELECT 1 FROM versions v WHERE v.id > ? AND v.history_id IN (SELECT id FROM histories WHERE workload_id = ?) LIMIT 1',
            [self::mark($workload), $workload],
        ) !== null;
    }

    /**
     * @param  string  $words  all of them must be in it, each whole or as a beginning; between quotation marks one after the other
     * @return list<string> digests of contents, the best first
     */
    public static function matching(string $words, int $most): array
    {
        $query = self::query($words);

        return $query === ''
            ? []
            : array_map(
                fn (stdClass $row): string => $row->digest,
                DB::select('SELECT digest FROM texts WHERE MATCH (words) AGAINST (? IN BOOLEAN MODE) LIMIT ?', [$query, $most]),
            );
    }

    /** The line in which one of the words first stands; null if that is not known any more. */
    public static function line(string $digest, string $words): ?string
    {
        $text = DB::scalar('SELECT words FROM texts WHERE digest = ?', [$digest]);
        foreach (is_string($text) ? self::terms($words) : [] as $term) {
            $at = mb_stripos((string) $text, $term);
            if ($at !== false) {
                $begin = max(0, $at - 60);
                $line = mb_substr((string) $text, $begin, 160);
                $before = (int) mb_strrpos(mb_substr($line, 0, $at - $begin), "\n");
                $line = trim((string) strtok(ltrim(mb_substr($line, $before)), "\n"));

                return $line === '' ? null : $line;
            }
        }

        return null;
    }

    private static function mark(int $workload): int
    {
        return (int) DB::scalar('SELECT version_id FROM text_marks WHERE workload_id = ?', [$workload]);
    }

    /** What people type, as the server's boolean mode takes it: nothing of it is an operator. */
    private static function query(string $words): string
    {
        $query = [];
        preg_match_all('/"([^"]+)"|[\pL\pN]{2,}/u', mb_scrub($words), $matches, PREG_SET_ORDER);
        foreach (array_slice($matches, 0, 20) as $match) {
            $phrase = isset($match[1]) ? trim((string) preg_replace('/[^\pL\pN]+/u', ' ', $match[1])) : '';
            $query[] = $phrase !== '' ? "+\"$phrase\"" : (isset($match[1]) ? '' : "+{$match[0]}*");
        }

        return implode(' ', array_filter($query));
    }

    /** @return list<string> */
    private static function terms(string $words): array
    {
        preg_match_all('/[\pL\pN]{2,}/u', mb_scrub($words), $matches);

        return $matches[0];
    }

    private function __construct(private readonly Points $points)
    {
    }

    /**
     * @param  array<stdClass>  $rows
     * @return int how many contents
     */
    private function take(array $rows): int
    {
        $wanted = [];
        foreach ($rows as $row) {
            $wanted[$row->digest] ??= $row;
        }
        $work = [];
        $places = [];
        foreach ($wanted as $digest => $row) {
            $set = $this->setAt((int) $row->history_id, (int) $row->first);
            if ($set === null) {
                continue;
            }
            $places[$set->id] ??= new ContentPlaces($this->points, $this->points->model($set), $this->points->route(null));
            $place = $places[$set->id]->placeOf((string) $digest);
            if ($place !== null) {
                $work[] = [$place, (string) $digest, $row->name];
            }
        }
        usort(
            $work,
            fn (array $a, array $b): int => [$a[0]->archiveKey, $a[0]->place->offset, $a[0]->place->within] <=> [
                $b[0]->archiveKey,
                $b[0]->place->offset,
                $b[0]->place->within,
            ],
        );
        $reading = new ArchiveReading;
        // One commit for many: each makes the server bring its index of words to the disk.
        foreach (array_chunk($work, self::ROWS) as $some) {
            $values = [];
            foreach ($some as [$place, $digest, $name]) {
                array_push($values, $digest, $this->words($reading, $place, $digest, $name));
            }
            DB::insert('INSERT IGNORE INTO texts VALUES '.implode(',', array_fill(0, count($some), '(?,?)')), $values);
        }

        return count($work);
    }

    private function words(ArchiveReading $reading, ContentPlace $place, string $digest, string $name): ?string
    {
        $content = new SpooledContent;
        $check = new ContentDigest;
        try {
            $reading->read($place, $content, $check);
        } catch (UnreadableArchive) {
            return null;
        }
        if ($check->finish() !== $digest) {
            return null;
        }

        return ContentText::of($content->rewound(), $name, self::WORDS);
    }

    private function setAt(int $history, int $instant): ?SetOutline
    {
        foreach ($this->points->sets as $set) {
            if ($set->history === $history && $set->instant === $instant) {
                return $set;
            }
        }

        return null;
    }
}
