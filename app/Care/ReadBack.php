<?php

declare(strict_types=1);

namespace App\Care;

use App\Models\BackupSet;
use App\Models\Check;
use App\Models\Copy;
use App\Models\User;
use App\Sets\SetFiles;
use App\Sets\SetPart;
use App\Sets\SidecarFiles;
use App\Stores\OpenStores;
use App\Stores\StoredCopy;
use App\Trees\Catalog\DigestList;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Archive\ByteRanges;
use Kaiseki\Core\Archive\ContentDigest;
use Kaiseki\Core\Archive\PieceDigests;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Catalog\ArchiveScan;
use Kaiseki\Core\Catalog\PlaceIndex;
use Kaiseki\Core\Chain\CopyState;
use Kaiseki\Core\Files\DamagedContents;
use RuntimeException;

/**
 * Reads a copy whole and compares it with what was registered: every byte of the archive, the files beside it, and the
 * index of it in the home. What is found is marked at once, with where it is and which contents it touches.
 */
final class ReadBack
{
    private const ROWS = 500;

    public function __construct(private readonly OpenStores $stores = new OpenStores)
    {
    }

    /** @param  (callable(int): void)|null  $progress  told bytes read so far, now and then */
    public function check(Copy $copy, ?User $by = null, bool $planned = false, ?callable $progress = null): Check
    {
        $began = hrtime(true);
        [$result, $because, $bytes] = $this->read($copy, $copy->set, $progress);

        return Check::query()->create([
            'copy_id' => $copy->id,
            'workload_id' => $copy->workload_id,
            'set_name' => $copy->set->name,
            'store_name' => $copy->store->name,
            'result' => $result,
            'because' => $because === null ? null : mb_substr($because, 0, 1000),
            'bytes' => $bytes,
            'seconds' => round((hrtime(true) - $began) / 1e9, 3),
            'user_id' => $by?->id,
            'planned' => $planned,
            'at' => now(),
        ]);
    }

    /**
     * @param  (callable(int): void)|null  $progress
     * @return array{string, string|null, int} result, why, bytes read
     */
    private function read(Copy $copy, BackupSet $set, ?callable $progress): array
    {
        clearstatcache(true);
        $store = $this->stores->of($copy->store);
        $silence = $store->silence(true);
        if ($silence !== null) {
            return ['silent', ucfirst("$silence."), 0];
        }
        $stored = StoredCopy::of($copy);
        $look = $store->look($stored->path, $stored->bytes, $stored->segments);
        if ($look->state === CopyState::Offline) {
            return ['silent', $look->because ?? 'It is on the shelf.', 0];
        }
        if ($look->state === CopyState::Missing) {
            return ['missing', $look->because, 0];
        }
        try {
            $now = PieceDigests::of($store->raw($stored), $progress);
        } catch (UnreadableArchive $unreadable) {
            if ($store->silence(true) !== null) {
                return ['silent', 'The store fell silent while it was read.', 0];
            }

            return $this->damaged($copy, $set, ByteRanges::of([[0, PHP_INT_MAX]]), $stored->bytes, 'It '.$unreadable->getMessage().'.');
        }
        $part = SetPart::of($copy);
        $wrong = $part->digest === null ? $this->compareContents($copy, $set, $now) : $this->compareBytes($copy, $part, $now);

        return $wrong ?? $this->right($copy, $set, $now->bytes);
    }

    /** @return array{string, string, int}|null null if it is right */
    private function compareBytes(Copy $copy, SetPart $part, PieceDigests $now): ?array
    {
        $set = $part->set;
        if (bin2hex($now->digest) === $part->digest) {
            return null;
        }
        $was = $part->pieces();
        $damage = $was?->damageIn($now) ?? ByteRanges::of([[0, max(1, $part->bytes)]]);
        $other =
            $damage->bytes() >= $part->bytes
                ? BackupSet::query()->where('workload_id', $set->workload_id)->where('digest', bin2hex($now->digest))->value('name')
                : null;

        return $this->damaged(
            $copy,
            $set,
            $damage,
            $now->bytes,
            match (true) {
                $other !== null => "It is not this set's archive, but that of $other.",
                $now->bytes < $part->bytes => sprintf(
                    'It was cut short: of %s bytes %s are there.',
                    number_format($part->bytes),
                    number_format($now->bytes),
                ),
                $now->bytes > $part->bytes => sprintf(
                    'It is longer than it was: it had %s bytes, and has %s.',
                    number_format($part->bytes),
                    number_format($now->bytes),
                ),
                $was === null => 'It is not what it was when it was registered.',
                $damage->bytes() >= $part->bytes && $was->count() > 1 => 'Nothing of it is what it was: it is another file.',
                default => 'It is not what it was at '.$damage->words().'.',
            },
        );
    }

    /**
     * For sets that were registered before digests of archives were kept: each content must be the one in the catalog.
     *
     * @return array{string, string, int}|null
     */
    private function compareContents(Copy $copy, BackupSet $set, PieceDigests $now): ?array
    {
        $everything = ByteRanges::of([[0, PHP_INT_MAX]]);
        $problem = null;
        try {
            $scan = ArchiveScan::read($this->stores->of($copy->store)->open(StoredCopy::of($copy)));
            $problem = $scan->whole ? null : 'It '.implode('; ', $scan->problems).'.';
        } catch (UnreadableArchive $unreadable) {
            $problem = 'It '.$unreadable->getMessage().'.';
        }
        $lost = $this->touched($copy, $set, $everything);
        if ($lost !== [] || ($problem !== null && $copy->state_because === null)) {
            return $this->damaged($copy, $set, $everything, $now->bytes, $problem ?? 'Contents in it are not what was cataloged.');
        }
        $now->write(SetFiles::pieces($set->id));
        $set->update(['digest' => bin2hex($now->digest), 'index_digest' => self::indexDigest($set)]);

        return null;
    }

    /** @return array{string, string|null, int} */
    private function right(Copy $copy, BackupSet $set, int $bytes): array
    {
        $wrong = SidecarFiles::wrong($copy, $set, $this->stores);
        $mended = $this->mendIndex($copy, $set);
        DB::delete('DELETE FROM damaged_contents WHERE copy_id = ?', [$copy->id]);
        if ($wrong !== []) {
            $because = 'The archive is right, but '.implode(', ', $wrong).'.';
            $copy->update([
                'state' => 'ok',
                'state_because' => mb_substr($because, 0, 500),
                'checked_at' => null,
                'damage' => ['beside' => array_keys($wrong)],
            ]);

            return ['damaged', $because, $bytes];
        }
        // an archive that came damaged stays what it is
        $said = $copy->state === 'damaged' || $copy->damage !== null ? null : $copy->state_because;
        $copy->update(['state' => 'checked', 'state_because' => $said, 'checked_at' => now(), 'damage' => null]);

        return $mended
            ? ['mended', 'The archive is right; its index in the home was not, and was made anew from it.', $bytes]
            : ['right', null, $bytes];
    }

    /** @return array{string, string, int} */
    private function damaged(Copy $copy, BackupSet $set, ByteRanges $damage, int $bytes, string $because): array
    {
        $lost = $this->touched($copy, $set, $damage);
        if ($lost !== null) {
            $because .=
                $lost === []
                    ? ' No content is touched by that.'
                    : sprintf(
                        ' %s of the %s contents in it can no longer be read.',
                        number_format(count($lost)),
                        number_format(self::countOf($set)),
                    );
        }
        DB::transaction(function () use ($copy, $damage, $lost, $bytes, $because): void {
            DB::delete('DELETE FROM damaged_contents WHERE copy_id = ?', [$copy->id]);
            foreach (array_chunk($lost ?? [], self::ROWS) as $chunk) {
                DB::insert(
                    'INSERT IGNORE INTO damaged_contents (copy_id, digest) VALUES '.
                        implode(',', array_map(fn (string $digest): string => "({$copy->id},".DigestList::one($digest).')', $chunk)),
                );
            }
            $copy->update([
                'state' => 'damaged',
                'state_because' => mb_substr($because, 0, 500),
                'checked_at' => null,
                'damage' => $lost === null
                        ? null
                        : ['ranges' => array_slice($damage->ranges, 0, 1000), 'contents' => count($lost), 'bytes' => $bytes],
            ]);
        });

        return ['damaged', $because, $bytes];
    }

    /** @return list<string>|null digests; null if that cannot be told */
    private function touched(Copy $copy, BackupSet $set, ByteRanges $damage): ?array
    {
        $this->mendIndexFromOthers($copy, $set);
        $index = self::index($set);
        if ($index === null) {
            return null;
        }
        try {
            return DamagedContents::in($this->stores->of($copy->store)->open(StoredCopy::of($copy)), $index, $damage);
        } catch (UnreadableArchive) {
            $digests = [];
            foreach ($index->digests() as $digest) {
                $digests[$digest] = true;
            }

            return array_map(strval(...), array_keys($digests));
        }
    }

    /** The index in the home belongs to the set as its archive does; it is made anew from an archive that is right. */
    private function mendIndex(Copy $copy, BackupSet $set): bool
    {
        if ($set->index_digest === null || self::indexDigest($set) === $set->index_digest) {
            return false;
        }
        $scan = ArchiveScan::read($this->stores->of($copy->store)->open(StoredCopy::of($copy)));
        PlaceIndex::write(SetFiles::placeIndex($set->id), $scan->places);

        return true;
    }

    private function mendIndexFromOthers(Copy $damaged, BackupSet $set): void
    {
        if ($set->index_digest === null || self::indexDigest($set) === $set->index_digest) {
            return;
        }
        foreach ($set->copies()->with('store')->whereKeyNot($damaged->id)->get() as $copy) {
            try {
                if (bin2hex(PieceDigests::of($this->stores->of($copy->store)->raw(StoredCopy::of($copy)))->digest) === $set->digest) {
                    $this->mendIndex($copy, $set);

                    return;
                }
            } catch (UnreadableArchive) {
                continue;
            }
        }
    }

    private static function indexDigest(BackupSet $set): ?string
    {
        $digest = ContentDigest::ofFile(SetFiles::placeIndex($set->id));

        return $digest === null ? null : bin2hex($digest);
    }

    private static function countOf(BackupSet $set): int
    {
        $index = self::index($set);

        return $index === null ? 0 : $index->count();
    }

    private static function index(BackupSet $set): ?PlaceIndex
    {
        if ($set->index_digest !== null && self::indexDigest($set) !== $set->index_digest) {
            return null;
        }
        try {
            return PlaceIndex::open(SetFiles::placeIndex($set->id));
        } catch (RuntimeException) {
            return null;
        }
    }
}
