<?php

declare(strict_types=1);

namespace App\Kinds;

use App\Models\Host;
use App\Models\Store;
use App\Models\Target;
use Illuminate\Database\Eloquent\Model;
use InvalidArgumentException;

/** All targets that there are: hosts, stores, and what the kinds bring. */
final class Targets
{
    /** @return array<string, class-string<Model&Target>> sort => model */
    public static function sorts(): array
    {
        $sorts = [];
        $brought = array_map(fn (Kind $kind): array => $kind->targets(), array_values(Kinds::all()));
        foreach ([Host::class, Store::class, ...array_merge(...$brought)] as $model) {
            $sorts[$model::sort()] = $model;
        }

        return $sorts;
    }

    /** @return list<Model&Target> by sort and name */
    public static function all(): array
    {
        $all = [];
        foreach (self::sorts() as $model) {
            $all = [...$all, ...$model::query()->orderBy('name')->get()->all()];
        }

        return array_values($all);
    }

    public static function find(string $sort, int $id): ?Target
    {
        $model = self::sorts()[$sort] ?? null;
        $found = $model === null ? null : $model::query()->find($id);

        return $found instanceof Target ? $found : null;
    }

    /**
     * @param  string  $words  "host:crew", or a name alone where one target has it
     *
     * @throws InvalidArgumentException
     */
    public static function named(string $words): Target
    {
        [$sort, $name] = str_contains($words, ':') ? explode(':', $words, 2) : ['', $words];
        $fitting = array_values(
            array_filter(self::all(), fn (Target $one): bool => $one->name() === $name && ($sort === '' || $one::sort() === $sort)),
        );

        return match (count($fitting)) {
            1 => $fitting[0],
            0 => throw new InvalidArgumentException("There is no target \"$words\"; \"rights list\" shows those there are."),
            default => throw new InvalidArgumentException(
                "Several targets are named $name. Say which: ".
                    implode(' or ', array_map(fn (Target $one): string => $one::sort().":$name", $fitting)).
                    '.',
            ),
        };
    }
}
