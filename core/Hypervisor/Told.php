<?php

declare(strict_types=1);

namespace Kaiseki\Core\Hypervisor;

/** Reads what a hypervisor, or a record beside a set, tells in JSON: what is not as it must be is refused. */
final class Told
{
    private const LONGEST = 4096;

    /** @param  array<mixed>  $told */
    public static function text(array $told, string $key): string
    {
        $value = $told[$key] ?? '';

        return is_string($value) && strlen($value) <= self::LONGEST ? $value : throw UnfitSettings::because("$key is no text");
    }

    /** @param  array<mixed>  $told */
    public static function number(array $told, string $key): int
    {
        $value = $told[$key] ?? 0;

        return is_int($value) && $value >= 0 ? $value : throw UnfitSettings::because("$key is no number");
    }

    /**
     * @template T
     *
     * @param  array<mixed>  $told
     * @param  callable(mixed): T  $each
     * @return list<T>
     */
    public static function all(array $told, string $key, callable $each): array
    {
        $value = $told[$key] ?? [];

        return is_array($value) && count($value) <= 1000
            ? array_map($each, array_values($value))
            : throw UnfitSettings::because("$key is no list");
    }

    /** @return array<mixed> */
    public static function part(mixed $value): array
    {
        return is_array($value) ? $value : throw UnfitSettings::because('a part of it is no object');
    }

    /**
     * @param  array<mixed>  $told
     * @return list<string>
     */
    public static function texts(array $told, string $key): array
    {
        return self::all($told, $key, fn (mixed $one): string => self::text([$key => $one], $key));
    }
}
