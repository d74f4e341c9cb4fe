<?php

declare(strict_types=1);

namespace App\Trail;

use App\Instance;
use App\Models\Store;
use App\NamedLock;
use App\Runs\ProofKey;
use App\Stores\OpenStores;
use App\Stores\UnableToStore;
use Illuminate\Support\Facades\Cache;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Trail\Seal;
use Kaiseki\Core\Trail\SealedDay;

/** Seals what was written into the trail, by one process, so that nobody who writes an entry waits for it. */
final class TrailSeals
{
    /** The folder of a store in which the signed days lie. */
    public const FOLDER = 'trail';

    private const AT_ONCE = 1000;

    /** An entry may become visible after later ones, when what it is part of took long; so many ids back it is still looked for. */
    private const BACK = 10_000;

    /** @return int how many entries were sealed */
    public static function bringUpToDate(): int
    {
        $sealed = 0;
        NamedLock::unlessHeld('trail-seals', function () use (&$sealed): void {
            do {
                $some = self::sealSome();
                $sealed += $some;
            } while ($some === self::AT_ONCE);
            self::signDays();
        });

        return $sealed;
    }

    private static function sealSome(): int
    {
        $last = DB::table('trail_seals')->orderByDesc('number')->first(['number', 'seal']);
        $newest = (int) DB::table('trail_seals')->max('entry_id');
        $rows = DB::table('trail')
            ->leftJoin('trail_seals', 'trail_seals.entry_id', '=', 'trail.id')
            ->whereNull('trail_seals.number')
            ->where('trail.id', '>', $newest - self::BACK)
            ->orderBy('trail.id')
            ->limit(self::AT_ONCE)
            ->get(TrailRows::columns());
        [$number, $seal, $seals] = [(int) ($last->number ?? 0), (string) ($last->seal ?? Seal::FIRST), []];
        foreach ($rows as $row) {
            $seal = Seal::of($seal, TrailRows::line($row));
            $seals[] = ['number' => ++$number, 'entry_id' => $row->id, 'seal' => $seal, 'sealed_at' => now()];
        }
        DB::table('trail_seals')->insert($seals);

        return count($seals);
    }

    /** Each day that is over and has seals, once; a store that does not answer gets what it lacks the next time. */
    private static function signDays(): void
    {
        $signed = DB::table('trail_days')->max('day');
        $ends = DB::table('trail_seals')
            ->selectRaw('DATE(sealed_at) AS day, MAX(number) AS entries')
            ->where('sealed_at', '<', now()->utc()->startOfDay())
            ->when($signed !== null, fn ($query) => $query->where('sealed_at', '>=', now()->parse((string) $signed)->addDay()))
            ->groupBy('day')
            ->orderBy('day')
            ->get();
        foreach ($ends as $end) {
            $seal = (string) DB::table('trail_seals')->where('number', $end->entries)->value('seal');
            $day = SealedDay::sign((string) $end->day, (int) $end->entries, $seal, ProofKey::pair());
            DB::table('trail_days')->insert(['day' => $day->day, 'entries' => $day->entries, 'signed' => $day->json()]);
        }
        self::writeToStores();
    }

    private static function writeToStores(): void
    {
        $days = DB::table('trail_days')->orderByDesc('day')->limit(60)->pluck('signed', 'day');
        $open = new OpenStores;
        foreach ($days->isEmpty() ? [] : $open->all()->filter(self::takesDays(...)) as $store) {
            if ($open->of($store)->silence() !== null) {
                continue;
            }
            foreach ($days as $day => $json) {
                $path = self::FOLDER."/$day.json";
                if (self::liesOn($store, $path)) {
                    continue;
                }
                $file = Instance::folder('tmp').'/trail-day-'.getmypid().'.json';
                file_put_contents($file, $json);
                try {
                    $open->of($store)->add($path, $file);
                    Cache::forever(self::mark($store, $path), true);
                } catch (UnableToStore $unable) {
                    report($unable);
                } finally {
                    @unlink($file);
                }
            }
        }
    }

    /** In a folder it is looked for; of an object store it is remembered, so that it is not asked for sixty days every minute. */
    private static function liesOn(Store $store, string $path): bool
    {
        return $store->kind === 'folder' ? is_file("{$store->root}/$path") : Cache::has(self::mark($store, $path));
    }

    private static function mark(Store $store, string $path): string
    {
        return "trail-day|{$store->id}|$path";
    }

    /** Stores of ours in folders and buckets: a cartridge is not moved for a line. */
    public static function takesDays(Store $store): bool
    {
        return in_array($store->kind, ['folder', 'object'], true) && ! $store->read_only;
    }
}
