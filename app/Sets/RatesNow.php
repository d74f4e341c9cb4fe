<?php

declare(strict_types=1);

namespace App\Sets;

use App\Models\Lane;
use App\Models\Store;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Chain\Route;
use Kaiseki\Core\Chain\StoreRate;
use Kaiseki\Core\Estimate\Costs;
use Kaiseki\Core\Estimate\MeasuredRate;

/** What is known of the speed of stores, lanes and targets: what runs measured, and else what was set down. */
final class RatesNow
{
    /** So many of the newest measurements of a thing count. */
    public const LAST = 20;

    /** @var array<string, array<string, MeasuredRate>> what => subject => rate */
    private array $measured = [];

    /** @var array<string, int> FROM>TO => runs that move something over that lane now */
    private array $busy = [];

    private function __construct()
    {
    }

    public static function read(): self
    {
        $rates = new self;
        $rows = [];
        foreach (
            DB::select(
                'SELECT what, subject, rate, weight FROM (SELECT what, subject, rate, weight, id, ROW_NUMBER() OVER (PARTITION BY what, '.
                    'subject ORDER BY id DESC) AS n FROM rate_measurements) newest WHERE n <= ? ORDER BY id DESC',
                [self::LAST],
            ) as $row
        ) {
            $rows[$row->what][$row->subject][] = [(float) $row->rate, (float) $row->weight];
        }
        foreach ($rows as $what => $subjects) {
            foreach ($subjects as $subject => $measurements) {
                $rates->measured[$what][$subject] = MeasuredRate::of($measurements);
            }
        }

        foreach (DB::table('runs')->where('state', 'running')->whereNotNull('estimate')->pluck('estimate') as $estimate) {
            foreach (json_decode($estimate, true)['lanes'] ?? [] as $lane) {
                $rates->busy[$lane] = ($rates->busy[$lane] ?? 0) + 1;
            }
        }

        return $rates;
    }

    public function of(string $what, string $subject): ?MeasuredRate
    {
        return $this->measured[$what][$subject] ?? null;
    }

    /** @param  array<int, Store>  $stores */
    public function route(array $stores, ?string $site): Route
    {
        $rates = [];
        foreach ($stores as $store) {
            $rates[$store->name] = new StoreRate(
                $store->site,
                $this->of('store', $store->name)->likely ?? $store->read_mb_s,
                $store->setup_s,
            );
        }
        $lanes = [];
        foreach (Lane::all() as $lane) {
            $lanes[$lane->from_site][$lane->to_site] =
                ($this->of('lane', "{$lane->from_site}>{$lane->to_site}")->likely ?? $lane->mb_s) /
                (1 + ($this->busy["{$lane->from_site}>{$lane->to_site}"] ?? 0));
        }

        return new Route($rates, $lanes, $site, (new Costs(fetch: $this->fetch($stores)))->fetching(1)->likely);
    }

    /** @param  array<int, Store>  $stores */
    private function fetch(array $stores): ?MeasuredRate
    {
        foreach ($stores as $store) {
            $fetch = $this->of('fetch', $store->name);
            if ($fetch !== null) {
                return $fetch;
            }
        }

        return null;
    }

    /** How many runs share a lane now. */
    public function sharing(string $from, string $to): int
    {
        return $this->busy["$from>$to"] ?? 0;
    }

    /** @param  array<int, Store>  $stores */
    public function costs(array $stores, string $site): Costs
    {
        $reading = [];
        foreach ($stores as $store) {
            $rate =
                $store->site === $site
                    ? $this->of('store', $store->name)
                    : $this->of('lane', "{$store->site}>$site") ?? $this->of('store', $store->name);
            if ($rate !== null) {
                $reading[$store->name] = $rate;
            }
        }

        return new Costs($reading, $this->of('file', $site), $this->of('write', $site), $this->fetch($stores));
    }
}
