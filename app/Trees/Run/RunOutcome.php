<?php

declare(strict_types=1);

namespace App\Trees\Run;

use App\Models\Copy;
use App\Models\Run;
use Illuminate\Support\Collection;
use Kaiseki\Core\Files\LeftOut;
use Kaiseki\Core\Files\PermissionRun;
use Kaiseki\Core\Files\ReadAmount;
use Kaiseki\Core\Proof\CheckLine;

/** What came of a run, in the form in which it is kept and signed. */
final class RunOutcome
{
    /**
     * @param  list<LeftOut>  $leftOut
     * @param  array<array-key, ReadAmount>  $read
     * @return array<string, mixed>
     */
    public static function ofDownload(Run $run, int $files, int $bytes, array $leftOut, array $read): array
    {
        $lost = array_filter($leftOut, fn (LeftOut $left): bool => $left->isLoss);

        return [
            'entries' => $files,
            'files' => $files,
            'bytes' => $bytes,
            'placed_beside' => 0,
            'replaced' => 0,
            'set_aside' => 0,
            'kept' => 0,
            ...LongList::keep($run, LongList::LEFT_OUT, self::rows($leftOut)),
            ...LongList::keep($run, LongList::DIFFERENCES, []),
            'read' => self::readings($read, self::copies($read)),
            'damaged' => [],
            ...LongList::keep($run, LongList::FROM_OTHER_POINTS, []),
            'commands' => [],
            'checks' => CheckLine::kept([
                CheckLine::of('every file that was to come back was sent', $lost === [], count($lost).' could not be given back'),
                CheckLine::of(
                    'content (BLAKE2b-256) as in the catalog, as it was sent',
                    true,
                    'what arrived is for the receiver to check with the manifest',
                ),
            ]),
            'right' => $lost === [],
        ];
    }

    /** @return array<string, mixed> */
    public static function ofPermissions(Run $run, PermissionRun $done): array
    {
        $lost = count(array_filter($done->leftOut, fn (LeftOut $left): bool => $left->isLoss));
        $differ = count($done->differences);

        return [
            'entries' => $done->given + $done->same,
            'files' => 0,
            'bytes' => 0,
            'placed_beside' => 0,
            'replaced' => $done->given,
            'set_aside' => 0,
            'kept' => $done->same,
            ...LongList::keep($run, LongList::LEFT_OUT, self::rows($done->leftOut)),
            ...LongList::keep($run, LongList::DIFFERENCES, self::rows($done->differences)),
            'read' => [],
            'damaged' => [],
            ...LongList::keep($run, LongList::FROM_OTHER_POINTS, []),
            'commands' => [],
            'checks' => CheckLine::kept([
                CheckLine::of(
                    'everything of the order stands there and has got its permissions',
                    $lost === 0,
                    "$lost could not be given theirs",
                ),
                CheckLine::of(
                    'mode, owner, group and access list as in the catalog, looked at again in the target',
                    $differ === 0,
                    "$differ differ",
                ),
            ]),
            'right' => $lost === 0 && $differ === 0,
        ];
    }

    /**
     * @param  list<LeftOut>  $leftOut
     * @param  int  $differ  files that are not as they should be when they are read again
     * @param  string  $as  what they are compared with: "in the catalog"
     * @return list<CheckLine>
     */
    public static function checks(array $leftOut, int $differ, string $as): array
    {
        $lost = count(array_filter($leftOut, fn (LeftOut $left): bool => $left->isLoss));

        return [
            CheckLine::of('every file that was to come back is there', $lost === 0, "$lost could not be given back"),
            CheckLine::of(
                "content (BLAKE2b-256), size, mode and time as $as, read again from the target",
                $differ === 0,
                "$differ differ",
            ),
        ];
    }

    /**
     * @param  iterable<LeftOut>  $leftOut
     * @return iterable<array{path: string, encoded?: true, because: string, loss: bool}>
     */
    public static function rows(iterable $leftOut): iterable
    {
        foreach ($leftOut as $left) {
            yield self::row($left);
        }
    }

    /** @return array{path: string, encoded?: true, because: string, loss: bool} */
    public static function row(LeftOut $left): array
    {
        return PathInJson::of($left->path) + ['because' => $left->because, 'loss' => $left->isLoss];
    }

    /**
     * @param  array<array-key, ReadAmount>  $read  by copy
     * @return Collection<int, Copy> those that were read, by id
     */
    public static function copies(array $read): Collection
    {
        return Copy::query()->with('set', 'store')->whereIn('id', array_keys($read))->get()->keyBy('id');
    }

    /**
     * @param  array<array-key, ReadAmount>  $read  by copy
     * @param  Collection<int, Copy>  $copies
     * @return list<array{set: string, store: string, bytes: int, members: int}>
     */
    public static function readings(array $read, Collection $copies): array
    {
        $readings = [];
        foreach ($read as $copy => $what) {
            $readings[] = [
                'set' => $copies[$copy]->set->name,
                'store' => $copies[$copy]->store->name,
                'bytes' => $what->bytes,
                'members' => $what->members,
            ];
        }

        return $readings;
    }
}
