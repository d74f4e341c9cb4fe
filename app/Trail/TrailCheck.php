<?php

declare(strict_types=1);

namespace App\Trail;

use App\Models\Store;
use App\Runs\ProofKey;
use App\Stores\OpenStores;
use App\Stores\StoredCopy;
use Illuminate\Support\Collection;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Trail\Seal;
use Kaiseki\Core\Trail\SealedDay;

/** Goes through the whole trail: every seal, every signed day, and what lies of those on the stores. */
final class TrailCheck
{
    private const AT_ONCE = 2000;

    private const TOLD = 100;

    /** Bytes of a signed day. */
    private const LARGEST_DAY = 4096;

    /** How many problems there are, of which the first are told. */
    public int $wrong = 0;

    /** @var list<string> */
    public array $problems = [];

    public int $entries = 0;

    public int $unsealed = 0;

    public int $days = 0;

    /** @var array<int, string> number => seal, of those at which a day ends */
    private array $ends = [];

    private int $last = 0;

    /** Entries that went by the rule of how long the trail is kept. */
    public int $expired = 0;

    private int $expiredTo = 0;

    public static function whole(): self
    {
        $check = new self;
        $check->expiredTo = TrailRule::expiredTo();
        $signed = $check->signedDays();
        foreach ($signed as $day) {
            $check->ends[$day->entries] = '';
        }
        $check->chain();
        foreach ($signed as $where => $day) {
            $check->day((string) $where, $day);
        }
        $check->unsealed = DB::table('trail')
            ->leftJoin('trail_seals', 'trail_seals.entry_id', '=', 'trail.id')
            ->whereNull('trail_seals.number')
            ->count();

        return $check;
    }

    private function chain(): void
    {
        $before = Seal::FIRST;
        DB::table('trail_seals')->chunkById(
            self::AT_ONCE,
            function (Collection $seals) use (&$before): void {
                $rows = TrailRows::of(array_map(intval(...), $seals->pluck('entry_id')->all()));
                foreach ($seals as $seal) {
                    for ($number = $this->last + 1; $number < $seal->number; $number++) {
                        $this->tell("Seal $number is left out.");
                    }
                    $this->last = (int) $seal->number;
                    $this->entries++;
                    $row = $rows[$seal->entry_id] ?? null;
                    if ($row === null && $seal->number <= $this->expiredTo) {
                        $this->expired++;
                    } elseif ($row === null) {
                        $this->tell("Entry {$seal->entry_id}, sealed {$seal->sealed_at} as number {$seal->number}, is left out.");
                    } elseif (Seal::of($before, TrailRows::line($row)) !== $seal->seal) {
                        $this->tell(
                            "Entry {$seal->entry_id}, number {$seal->number}, was changed, added or put elsewhere after it was sealed.",
                        );
                    }
                    $before = $seal->seal; // so that what follows is judged for itself
                    if (isset($this->ends[$this->last])) {
                        $this->ends[$this->last] = $before;
                    }
                }
            },
            'number',
        );
    }

    private function day(string $where, SealedDay $day): void
    {
        $this->days++;
        if (! $day->isSound() || ! in_array($day->publicKey, ProofKey::known(), true)) {
            $this->tell("The end of {$day->day} ($where) was not signed by this desk.");
        } elseif ($day->entries > $this->last) {
            $this->tell("At the end of {$day->day} there were {$day->entries} entries ($where); now there are {$this->last}.");
        } elseif ($this->ends[$day->entries] !== $day->seal) {
            $this->tell("The trail up to the end of {$day->day} is not the one that was signed ($where).");
        }
    }

    /** @return array<string, SealedDay> where it lies => day */
    private function signedDays(): array
    {
        $texts = [];
        foreach (DB::table('trail_days')->orderBy('day')->pluck('signed', 'day') as $day => $json) {
            $texts["database, $day"] = (string) $json;
        }
        foreach (Store::query()->orderBy('name')->get()->filter(TrailSeals::takesDays(...)) as $store) {
            foreach ($store->kind === 'folder' ? self::inFolder($store) : self::inBucket($store) as $name => $json) {
                $texts["store {$store->name}, $name"] = $json;
            }
        }
        $days = [];
        foreach ($texts as $where => $json) {
            $day = SealedDay::parse($json);
            if ($day === null) {
                $this->tell("What lies in $where is no signed end of a day.");
            } else {
                $days[$where] = $day;
            }
        }

        return $days;
    }

    /** @return array<string, string> name of a file => what is in it */
    private static function inFolder(Store $store): array
    {
        $texts = [];
        foreach (glob("{$store->root}/".TrailSeals::FOLDER.'/*.json') ?: [] as $file) {
            $texts[basename($file)] = (string) @file_get_contents($file, false, null, 0, self::LARGEST_DAY);
        }

        return $texts;
    }

    /**
     * Of the days that the database knows, those that lie there: a bucket is not listed.
     *
     * @return array<string, string>
     */
    private static function inBucket(Store $store): array
    {
        $texts = [];
        $open = (new OpenStores)->of($store);
        foreach ($open->silence() === null ? DB::table('trail_days')->orderBy('day')->pluck('signed', 'day') : [] as $day => $json) {
            try {
                $raw = $open->raw(new StoredCopy(TrailSeals::FOLDER."/$day.json", strlen((string) $json)));
                $texts["$day.json"] = $raw->read(self::LARGEST_DAY);
            } catch (UnreadableArchive) {
                // written before there were buckets, or the day before it was one
            }
        }

        return $texts;
    }

    private function tell(string $problem): void
    {
        $this->wrong++;
        if (count($this->problems) < self::TOLD) {
            $this->problems[] = $problem;
        }
    }
}
