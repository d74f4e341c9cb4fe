<?php

declare(strict_types=1);

namespace Kaiseki\Core\Chain;

use InvalidArgumentException;
use Kaiseki\Core\Instant;

/** A chain described in JSON: stores, lanes and sets, for planning without a running instance. */
final readonly class ChainSheet
{
    private function __construct(
        public ChainGraph $graph,
        /** @var array<string, StoreRate> */
        public array $stores,
        /** @var array<string, array<string, float>> */
        public array $lanes,
        public ?string $targetSite,
    ) {
    }

    /** @throws InvalidArgumentException naming the place that is wrong */
    public static function parse(string $json): self
    {
        $sheet = json_decode($json, true, 64);
        if (! is_array($sheet) || ! is_array($sheet['sets'] ?? null)) {
            throw new InvalidArgumentException('The sheet is not a JSON object with a list of "sets".');
        }
        $stores = [];
        foreach (self::listOf($sheet, 'stores') as $store) {
            $name = self::text($store, 'name', 'a store');
            $rate = $store['read_mb_s'] ?? 100;
            $setup = $store['setup_s'] ?? 0;
            if (! is_numeric($rate) || $rate <= 0 || ! is_numeric($setup) || $setup < 0) {
                throw new InvalidArgumentException("The store \"$name\" needs a read_mb_s above 0 and a setup_s of 0 or more.");
            }
            $stores[$name] = new StoreRate((string) ($store['site'] ?? $name), (float) $rate, (float) $setup);
        }
        $lanes = [];
        foreach (self::listOf($sheet, 'lanes') as $lane) {
            if (! is_numeric($lane['mb_s'] ?? null) || $lane['mb_s'] <= 0) {
                throw new InvalidArgumentException('A lane needs an mb_s above 0.');
            }
            $lanes[self::text($lane, 'from', 'a lane')][self::text($lane, 'to', 'a lane')] = (float) $lane['mb_s'];
        }
        $sets = [];
        foreach (self::listOf($sheet, 'sets') as $entry) {
            $set = self::set($entry, $stores);
            if (isset($sets[$set->id])) {
                throw new InvalidArgumentException("The set \"{$set->id}\" stands twice in the sheet.");
            }
            $sets[$set->id] = $set;
        }

        return new self(new ChainGraph($sets), $stores, $lanes, isset($sheet['target_site']) ? (string) $sheet['target_site'] : null);
    }

    public function route(?string $site = null): Route
    {
        return new Route($this->stores, $this->lanes, $site ?? $this->targetSite);
    }

    /**
     * @param  array<mixed>  $entry
     * @param  array<string, StoreRate>  $stores
     */
    private static function set(array $entry, array $stores): BackupSet
    {
        $id = self::text($entry, 'id', 'a set');
        $copies = [];
        foreach (self::listOf($entry, 'copies') as $copy) {
            $store = self::text($copy, 'store', "a copy of \"$id\"");
            if (! isset($stores[$store])) {
                throw new InvalidArgumentException("A copy of \"$id\" is on the store \"$store\", which the sheet does not list.");
            }
            $state = CopyState::tryFrom((string) ($copy['state'] ?? 'ok')) ?? throw new InvalidArgumentException("A copy of \"$id\" has the state \"{$copy['state']}\". States are ok, checked, offline, missing, damaged.");
            $copies[] = new SetCopy($store, $state, array_values(array_map(strval(...), (array) ($copy['medium'] ?? []))));
        }
        $bytes = $entry['bytes'] ?? 0;
        if (! is_int($bytes) && ! is_float($bytes) || $bytes < 0) {
            throw new InvalidArgumentException("The bytes of \"$id\" are not a number of 0 or more.");
        }
        $base = $entry['base'] ?? null;

        return new BackupSet(
            $id, Level::of(is_int($entry['level'] ?? null) ? $entry['level'] : self::text($entry, 'level', "\"$id\"")), Instant::parse(self::text($entry, 'captured_at', "\"$id\"")),
            (int) $bytes, $copies, $base === null ? null : (string) $base, (string) ($entry['history'] ?? ''),
            (bool) ($entry['consistent'] ?? true), (bool) ($entry['in_doubt'] ?? false),
        );
    }

    /**
     * @param  array<mixed>  $of
     * @return list<array<mixed>>
     */
    private static function listOf(array $of, string $key): array
    {
        $list = $of[$key] ?? [];
        if (! is_array($list) || array_filter($list, fn (mixed $item): bool => ! is_array($item)) !== []) {
            throw new InvalidArgumentException("\"$key\" is not a list of objects.");
        }

        return array_values($list);
    }

    /** @param  array<mixed>  $of */
    private static function text(array $of, string $key, string $whose): string
    {
        $value = $of[$key] ?? null;
        if (! is_string($value) && ! is_int($value) || $value === '') {
            throw new InvalidArgumentException("$whose has no \"$key\".");
        }

        return (string) $value;
    }
}
