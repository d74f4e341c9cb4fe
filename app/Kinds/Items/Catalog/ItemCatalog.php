<?php

declare(strict_types=1);

namespace App\Kinds\Items\Catalog;

use App\Models\Workload;
use App\NamedLock;
use App\Sets\Points;
use App\Sets\SetOutline;
use App\Trees\Catalog\CatalogReader;
use App\Trees\Catalog\PathKeys;
use Closure;
use DateTimeZone;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Files\SpooledContent;
use Kaiseki\Core\Mail\MailLayout;
use stdClass;

/**
 * Finds the items in the contents of a workload that its catalog got since the last time. Who, when, subject and folder are there at
 * once; words of bodies follow: see ItemWords.
 */
final class ItemCatalog
{
    /** Larger files are no messages, nor mailboxes that anybody reads as one file. */
    private const LARGEST = 4 << 30;

    private const AT_ONCE = 2_000;

    private readonly MailLayout $layout;

    private readonly ItemBatch $batch;

    private readonly DateTimeZone $zone;

    /** @var array<string, int> digest => when a file with it was received: its time (common practice), seconds since 1970 */
    private array $received = [];

    /** @var array<string, string> digest => path of a file with it */
    private array $paths = [];

    private int $missing = 0;

    /** @var array<int, list<SetOutline>> history => its sets, the oldest first */
    private array $sets = [];

    private function __construct(private readonly Workload $workload, private readonly Points $points)
    {
        $this->batch = new ItemBatch($workload->id);
        $this->layout = new MailLayout(self::maildirs($workload));
        // One that was made a moment ago does not know its own.
        $this->zone = new DateTimeZone(Workload::query()->findOrFail($workload->id)->zone);
        foreach ($points->sets as $set) {
            $this->sets[$set->history][] = $set;
        }
        foreach ($this->sets as &$sets) {
            usort($sets, fn (SetOutline $a, SetOutline $b): int => $a->instant <=> $b->instant);
        }
    }

    /**
     * @param  (Closure(int): void)|null  $progress  told the items so far
     * @return array{int, int} items that were found, and contents that could not be read
     */
    public static function bringUpToDate(Workload $workload, ?Closure $progress = null): array
    {
        $told = [0, 0];
        NamedLock::unlessHeld("items {$workload->id}", function () use ($workload, $progress, &$told): void {
            $points = new Points($workload);
            try {
                $self = new self($workload, $points);
                $self->run($progress);
                $told = [$self->batch->written(), $self->missing];
            } finally {
                $points->stores->release();
            }
        });

        return $told;
    }

    /** Forgets all items of a workload: they are found anew. */
    public static function forget(Workload $workload): void
    {
        foreach (['item_terms', 'item_words', 'item_times'] as $table) {
            DB::delete("DELETE FROM $table WHERE item_id IN (SELECT id FROM items WHERE workload_id = ?)", [$workload->id]);
        }
        foreach (['item_contents', 'item_folders', 'item_mailboxes', 'items', 'item_marks'] as $table) {
            DB::delete("DELETE FROM $table WHERE workload_id = ?", [$workload->id]);
        }
    }

    /**
     * Forgets what no point has any more, since the sets that had it expired.
     *
     * @return int items
     */
    public static function forgetGone(Workload $workload): int
    {
        MailboxNames::forgetGone($workload);
        DB::delete(
            'DELETE FROM item_contents WHERE workload_id = ? AND NOT EXISTS (SELECT 1 FROM versions v JOIN histories h '.
                'ON h.id = v.history_id WHERE v.digest = item_contents.digest AND h.workload_id = item_contents.workload_id)',
            [$workload->id],
        );
        $gone = array_column(DB::select(
            'SELECT id FROM items i WHERE workload_id = ? AND NOT EXISTS (SELECT 1 FROM item_contents c WHERE c.item_id = i.id)',
            [$workload->id],
        ), 'id');
        foreach (array_chunk($gone, 1_000) as $some) {
            $ids = implode(',', array_map(intval(...), $some));
            DB::transaction(function () use ($ids): void {
                DB::delete("DELETE FROM item_terms WHERE item_id IN ($ids)");
                DB::delete("DELETE FROM item_words WHERE item_id IN ($ids)");
                DB::delete("DELETE FROM item_times WHERE item_id IN ($ids)");
                DB::delete("DELETE FROM items WHERE id IN ($ids)");
            });
        }

        return count($gone);
    }

    /** Whether something was cataloged since it was brought up to date. */
    public static function isBehind(Workload $workload): bool
    {
        return DB::selectOne(
            'SELECT 1 FROM versions v WHERE v.id > ? AND v.history_id IN (SELECT id FROM histories WHERE workload_id = ?) LIMIT 1',
            [self::mark($workload), $workload->id],
        ) !== null;
    }

    private static function mark(Workload $workload): int
    {
        return (int) DB::scalar('SELECT version_id FROM item_marks WHERE workload_id = ?', [$workload->id]);
    }

    /** @return list<string> paths of folders that hold "cur" */
    private static function maildirs(Workload $workload): array
    {
        $rows = DB::select('SELECT parent_id FROM paths WHERE name_id = ? AND workload_id = ?', [PathKeys::name('cur'), $workload->id]);
        $paths = (new CatalogReader)->folderPaths(array_map(fn (stdClass $row): int => (int) $row->parent_id, $rows));

        return array_map(fn (stdClass $row): string => $paths[(int) $row->parent_id] ?? '', $rows);
    }

    /** @param  (Closure(int): void)|null  $progress */
    private function run(?Closure $progress): void
    {
        do {
            $rows = DB::select(
                'SELECT v.id, v.first, v.until, v.history_id, v.size, v.mtime, v.digest, v.path_id, v.parent_id, p.name FROM versions v '.
                    "JOIN paths p ON p.id = v.path_id WHERE v.id > ? AND p.workload_id = ? AND v.kind = 'f' AND v.size BETWEEN 1 AND ? ".
                    'AND v.digest IS NOT NULL ORDER BY v.id LIMIT ?',
                [self::mark($this->workload), $this->workload->id, self::LARGEST, self::AT_ONCE],
            );
            $this->take($rows);
            $isLast = count($rows) < self::AT_ONCE;
            $last = $isLast ? (int) DB::scalar('SELECT COALESCE(MAX(id), 0) FROM versions') : (int) end($rows)->id;
            DB::statement('REPLACE INTO item_marks VALUES (?, ?)', [$this->workload->id, $last]);
            if ($progress !== null) {
                $progress($this->batch->written());
            }
        } while (! $isLast);
    }

    /** @param  array<stdClass>  $rows */
    private function take(array $rows): void
    {
        $folders = (new CatalogReader)->folderPaths(array_map(fn (stdClass $row): int => (int) $row->parent_id, $rows));
        $wanted = $seen = [];
        $this->received = $this->paths = [];
        foreach ($rows as $row) {
            $path = EntryPath::join($folders[(int) $row->parent_id] ?? '', $row->name);
            $set = MailLayout::mayHoldItems($path) ? $this->setOf($row) : null;
            if ($set === null) {
                continue; // nothing that is kept has it any more
            }
            if (ItemsInFile::isInMaildir($path)) {
                $seen[(int) $row->parent_id] ??= $this->layout->placeOf($path);
            }
            $wanted[$row->digest] ??= [$set, (int) $row->size];
            $this->received[$row->digest] ??= intdiv((int) $row->mtime, 1_000_000_000);
            $this->paths[$row->digest] ??= $path;
        }
        $this->remember($seen);
        $this->rememberFilesOf($rows, $folders);
        foreach ($this->known(array_map(strval(...), array_keys($wanted))) as $digest) {
            unset($wanted[$digest]);
        }
        $this->missing += count((new ItemContents($this->points))->read($wanted, $this->look(...)));
        $this->batch->write();
        $this->rememberWholeCollections($rows, $folders);
    }

    /**
     * Files outside a Maildir are folders of their own, or lie in one, whatever is known of their contents already.
     *
     * @param  array<stdClass>  $rows
     * @param  array<int, string>  $folders
     */
    private function rememberFilesOf(array $rows, array $folders): void
    {
        $seen = [];
        foreach ($rows as $row) {
            $path = EntryPath::join($folders[(int) $row->parent_id] ?? '', $row->name);
            if (! ItemsInFile::isInMaildir($path) && MailLayout::mayHoldItems($path)) {
                $isMbox = preg_match('/\.eml$/i', $path) !== 1;
                $seen[(int) $row->path_id] = MailLayout::sortOf($path)->isOfFields()
                    ? MailLayout::collectionOf($path, false)
                    : $this->layout->placeOf($path, $isMbox);
            }
        }
        $this->remember($seen);
    }

    /**
     * A file with several appointments or contacts is a collection itself.
     *
     * @param  array<stdClass>  $rows
     * @param  array<int, string>  $folders
     */
    private function rememberWholeCollections(array $rows, array $folders): void
    {
        $files = [];
        foreach ($rows as $row) {
            $path = EntryPath::join($folders[(int) $row->parent_id] ?? '', $row->name);
            if (MailLayout::sortOf($path)->isOfFields() && MailLayout::mayHoldItems($path)) {
                $files[$row->digest][(int) $row->path_id] = $path;
            }
        }
        $seen = [];
        foreach ($this->known(array_map(strval(...), array_keys($files)), 1) as $digest) {
            $seen += array_map(fn (string $path): array => MailLayout::collectionOf($path, true), $files[$digest]);
        }
        $this->remember($seen);
    }

    /** @param  array<int, array{string, string}>  $seen  key of a path => mailbox and folder */
    private function remember(array $seen): void
    {
        foreach (array_chunk($seen, 500, true) as $some) {
            $values = $mailboxes = [];
            foreach ($some as $key => [$mailbox, $folder]) {
                $mailboxes[] = mb_substr($mailbox, 0, 300);
                array_push($values, $key, $this->workload->id, end($mailboxes), mb_substr($folder, 0, 600));
            }
            DB::insert('REPLACE INTO item_folders VALUES '.implode(',', array_fill(0, count($some), '(?,?,?,?)')), $values);
            MailboxNames::add($this->workload->id, $mailboxes);
        }
    }

    /**
     * @param  list<string>  $digests
     * @param  int  $part  0: whatever was found in them
     * @return list<string> those that were looked into, and have such a part
     */
    private function known(array $digests, int $part = 0): array
    {
        $known = [];
        foreach (array_chunk($digests, 1_000) as $some) {
            $rows = DB::select(
                'SELECT digest FROM item_contents WHERE workload_id = ? AND part = ? AND digest IN ('.
                    implode(',', array_fill(0, count($some), '?')).')',
                [$this->workload->id, $part, ...$some],
            );
            array_push($known, ...array_map(fn (stdClass $row): string => $row->digest, $rows));
        }

        return $known;
    }

    private function look(string $digest, SpooledContent $content): void
    {
        $part = 0;
        foreach (ItemsInFile::find($this->paths[$digest], $content, $this->received[$digest], $this->zone) as $found) {
            $this->batch->add($digest, $part++, $found);
        }
        if ($part === 0) {
            $this->batch->none($digest);
        }
    }

    private function setOf(stdClass $row): ?SetOutline
    {
        return $this->setBetween((int) $row->history_id, (int) $row->first, (int) $row->until);
    }

    /** The first set at whose point a version is there: the one with which it came may have expired. */
    private function setBetween(int $history, int $first, int $until): ?SetOutline
    {
        foreach ($this->sets[$history] ?? [] as $set) {
            if ($set->instant >= $first) {
                return $set->instant < $until ? $set : null;
            }
        }

        return null;
    }
}
