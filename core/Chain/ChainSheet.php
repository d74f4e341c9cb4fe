<?php

declare(strict_types=1);

namespace Kaiseki\Core\Chain;

use InvalidArgumentException;
use JsonException;
use Kaiseki\Core\Instant;

/** A chain described in JSON: stores, lanes and sets, for planning without a running instance. */
final readonly class ChainSheet
{
    private function __construct(
        public ChainGraph $graph,
        /** @var array<array-key, StoreRate> */
        public array $stores,
        /** @var array<array-key, array<array-key, float>> */
        public array $lanes,
        public ?string $targetSite,
    ) {
    }

    /** @throws InvalidArgumentException naming the place that is wrong */
    public static function parse(string $json): self
    {
        try {
            $sheet = SheetEntry::of(json_decode($json, true, 64, JSON_THROW_ON_ERROR), 'the sheet');
        } catch (JsonException $wrong) {
            throw new InvalidArgumentException("The sheet is not JSON: {$wrong->getMessage()}.");
        }
        if (! $sheet->has('sets')) {
            throw new InvalidArgumentException('The sheet has no list of "sets".');
        }
        $stores = [];
        foreach ($sheet->listOf('stores') as $store) {
            $name = $store->text('name');
            if (isset($stores[$name])) {
                $store->refuse("lists the store \"$name\" again");
            }
            $stores[$name] = new StoreRate(
                $store->text('site', $name),
                $store->number('read_mb_s', 100.0, true),
                $store->number('setup_s', 0.0),
            );
        }
        $lanes = [];
        foreach ($sheet->listOf('lanes') as $lane) {
            $lanes[$lane->text('from')][$lane->text('to')] = $lane->number('mb_s', null, true);
        }
        $sets = [];
        $entries = [];
        foreach ($sheet->listOf('sets') as $entry) {
            $set = self::set($entry, $stores);
            if (isset($sets[$set->id])) {
                $entry->refuse("stands twice: another set has the id \"{$set->id}\"");
            }
            $sets[$set->id] = $set;
            $entries[$set->id] = $entry->named("\"{$set->id}\"");
        }
        self::refuseImpossible($sets, $entries);

        return new self(new ChainGraph($sets), $stores, $lanes, $sheet->has('target_site') ? $sheet->text('target_site') : null);
    }

    public function route(?string $site = null): Route
    {
        return new Route($this->stores, $this->lanes, $site ?? $this->targetSite);
    }

    /** @return list<string> */
    public function storeNames(): array
    {
        return array_map(strval(...), array_keys($this->stores));
    }

    /** @param  array<array-key, StoreRate>  $stores */
    private static function set(SheetEntry $entry, array $stores): BackupSet
    {
        $id = $entry->text('id');
        $entry = $entry->named("\"$id\"");
        $copies = [];
        foreach ($entry->listOf('copies') as $copy) {
            $store = $copy->text('store');
            if (! isset($stores[$store])) {
                $copy->refuse("is on the store \"$store\", which the sheet does not list");
            }
            $state = $copy->text('state', 'ok');
            $copies[] = new SetCopy(
                $store,
                CopyState::tryFrom($state) ?? $copy->refuse("has the state \"$state\"; states are ok, checked, offline, missing, damaged"),
                $copy->texts('medium'),
                $copy->whole('position'),
            );
        }
        try {
            return new BackupSet(
                $id,
                Level::of($entry->text('level')),
                Instant::parse($entry->text('captured_at')),
                $entry->whole('bytes'),
                $copies,
                $entry->has('base') ? $entry->text('base') : null,
                $entry->text('history', ''),
                $entry->flag('consistent', true),
                $entry->flag('in_doubt', false),
            );
        } catch (InvalidArgumentException $wrong) {
            throw str_starts_with($wrong->getMessage(), ucfirst($entry->place))
                ? $wrong
                : new InvalidArgumentException(ucfirst($entry->place).': '.$wrong->getMessage());
        }
    }

    /**
     * A base that is not there, bases that go round in a circle, two sets of one history at one instant.
     *
     * @param  array<array-key, BackupSet>  $sets
     * @param  array<array-key, SheetEntry>  $entries
     */
    private static function refuseImpossible(array $sets, array $entries): void
    {
        $instants = [];
        $sound = [];
        foreach ($sets as $id => $set) {
            $instant = $set->history."\0".$set->capturedAt->microseconds;
            if (isset($instants[$instant])) {
                $entries[$id]->refuse(
                    "is captured at the same instant as \"{$instants[$instant]}\" ({$set->capturedAt->iso()}); which came first cannot ".
                        'be told',
                );
            }
            $instants[$instant] = $set->id;
            if ($set->base !== null && ! isset($sets[$set->base])) {
                $entries[$id]->refuse("has the base \"{$set->base}\", which the sheet does not list");
            }
            $path = [];
            for ($at = $set->id; isset($sets[$at]) && ! isset($sound[$at]) && $sets[$at]->base !== null; $at = $sets[$at]->base) {
                if (isset($path[$at])) {
                    $entries[$id]->refuse(
                        'rests on bases that go round in a circle: '.implode(' on ', array_map(strval(...), [...array_keys($path), $at])),
                    );
                }
                $path[$at] = true;
            }
            $sound += $path;
        }
    }
}
