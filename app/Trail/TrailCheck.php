<?php

declare(strict_types=1);

namespace App\Trail;

use App\Models\Store;
use App\Runs\ProofKey;
use Illuminate\Support\Collection;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Trail\Seal;
use Kaiseki\Core\Trail\SealedDay;

/** Goes through the whole trail: every seal, every signed day, and what lies of those on the stores. */
final class TrailCheck
{
    private const AT_ONCE = 2000;

    private const TOLD = 100;

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

    public static function whole(): self
    {
        $check = new self;
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
                    if ($row === null) {
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
            foreach (glob("{$store->root}/".TrailSeals::FOLDER.'/*.json') ?: [] as $file) {
                $texts["store {$store->name}, ".basename($file)] = (string) @file_get_contents($file, false, null, 0, 4096);
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

    private function tell(string $problem): void
    {
        $this->wrong++;
        if (count($this->problems) < self::TOLD) {
            $this->problems[] = $problem;
        }
    }
}
