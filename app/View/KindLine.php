<?php

declare(strict_types=1);

namespace App\View;

use App\Kinds\Kind;
use App\Kinds\Kinds;
use App\Kinds\Need;
use Illuminate\Support\Facades\DB;

/** A kind of workload, what it needs, and how many there are of it. */
final readonly class KindLine
{
    private function __construct(
        public string $name,
        /** What one of its workloads is. */
        public string $noun,
        public int $workloads,
        /** Whether the desk knows it; if not, its workloads are kept and nothing else can be done with them. */
        public bool $isInstalled,
        /** @var list<Need> */
        public array $needs,
        /** How a person has installed what is missing; null if nothing is. */
        public ?string $command,
    ) {
    }

    /** @return list<self> those that are installed, and those that workloads are of */
    public static function all(): array
    {
        $counts = DB::table('workloads')->groupBy('kind')->pluck(DB::raw('COUNT(*)'), 'kind')->all();
        $names = array_unique([...array_map(strval(...), array_keys(Kinds::all())), ...array_map(strval(...), array_keys($counts))]);

        return array_values(array_map(fn (string $name): self => self::of(Kinds::named($name), (int) ($counts[$name] ?? 0)), $names));
    }

    private static function of(Kind $kind, int $workloads): self
    {
        $needs = $kind->needs();

        return new self($kind->name(), $kind->noun(), $workloads, Kinds::isInstalled($kind->name()), $needs, Need::command($needs));
    }
}
