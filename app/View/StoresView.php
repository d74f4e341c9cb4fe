<?php

declare(strict_types=1);

namespace App\View;

use App\Models\CartridgeCall;
use App\Models\Lane;
use App\Models\Right;
use App\Models\Store;
use App\Models\User;
use App\Models\Workload;
use App\Rights\PersonRights;
use App\Sets\RatesNow;
use App\Stores\CartridgeStore;
use App\Stores\OpenStores;
use Carbon\CarbonImmutable;
use Illuminate\Database\Query\Builder;
use Illuminate\Support\Collection;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Chain\CopyState;
use Kaiseki\Core\Estimate\MeasuredRate;
use Kaiseki\Core\Tape\UnableToUseTape;

/** What the page of stores shows: what holds copies, what lies where, how fast it comes, and what is wrong. */
final class StoresView
{
    private readonly RatesNow $rates;

    private readonly OpenStores $open;

    private readonly PersonRights $reach;

    /** @var array<int, array{int, int, int, int}>|null see held() */
    private ?array $held = null;

    /** @var array<string, list<float>> what and subject => rates, the newest last */
    private array $past = [];

    public function __construct(private readonly User $user)
    {
        $this->rates = RatesNow::read();
        $this->reach = PersonRights::of($user);
        $this->open = new OpenStores;
        foreach (
            DB::table('rate_measurements')
                ->orderByDesc('id')
                ->limit(2000)
                ->get(['what', 'subject', 'rate']) as $row
        ) {
            $key = "{$row->what} {$row->subject}";
            if (count($this->past[$key] ?? []) < RatesNow::LAST) {
                $this->past[$key] = [(float) $row->rate, ...$this->past[$key] ?? []];
            }
        }
    }

    /** @return Collection<int, Store> those on which something lies that the person may see; all for who sees everything */
    private function seen(): Collection
    {
        $seen = $this->user->isLimited() ? $this->reach->stores()->pluck('id')->all() : null;

        return $this->open->all()->filter(fn (Store $store): bool => $seen === null || in_array($store->id, $seen, true))->values();
    }

    public function mayTend(Store $store): bool
    {
        return $this->reach->may(Right::Tend, $store);
    }

    /** Copies that the person may see. */
    private function copies(): Builder
    {
        $seen = fn (Builder $query) => $query->whereIn('workload_id', Workload::seenBy($this->user)->select('id'));

        return DB::table('copies')->when($this->user->isLimited(), $seen);
    }

    /** @return Collection<int, StoreLine> */
    public function stores(): Collection
    {
        return $this->seen()->map(fn (Store $store): StoreLine => new StoreLine(
            $store,
            $store->silence,
            ($this->held()[$store->id] ?? [0])[0],
            ($this->held()[$store->id] ?? [0, 0])[1],
            ($this->held()[$store->id] ?? [0, 0, 0, 0])[3],
            $this->rates->of('store', $store->name),
            new TrendLine($this->past["store {$store->name}"] ?? []),
        ));
    }

    /**
     * @return array<int, array{int, int, int, int}> id of a store => copies, bytes, copies found right when read back, workloads, of those
     *     that the person may see
     */
    private function held(): array
    {
        if ($this->held === null) {
            $this->held = [];
            foreach ($this->standings()->whereNotNull('held')->pluck('held') as $held) {
                foreach ((array) json_decode($held, true) as $store => [$copies, $bytes, $checked]) {
                    $sum = $this->held[$store] ?? [0, 0, 0, 0];
                    $this->held[$store] = [$sum[0] + $copies, $sum[1] + $bytes, $sum[2] + $checked, $sum[3] + 1];
                }
            }
        }

        return $this->held;
    }

    /**
     * @return list<StoreReading>
     */
    public function checks(): array
    {
        $last = DB::table('checks')->selectRaw('store_name, MAX(at) AS at')->groupBy('store_name')->pluck('at', 'store_name');

        return array_values(
            $this->seen()
                ->map(
                    fn (Store $store): StoreReading => new StoreReading(
                        $store,
                        ($this->held()[$store->id] ?? [0])[0],
                        ($this->held()[$store->id] ?? [0, 0, 0])[2],
                        isset($last[$store->name]) ? CarbonImmutable::parse($last[$store->name]) : null,
                    ),
                )
                ->all(),
        );
    }

    /** @return Collection<int, Lane> */
    public function lanes(): Collection
    {
        return Lane::query()->orderBy('from_site')->orderBy('to_site')->get();
    }

    public function measuredLane(Lane $lane): ?MeasuredRate
    {
        return $this->rates->of('lane', "{$lane->from_site}>{$lane->to_site}");
    }

    public function sharing(Lane $lane): int
    {
        return $this->rates->sharing($lane->from_site, $lane->to_site);
    }

    public function pastOfLane(Lane $lane): TrendLine
    {
        return new TrendLine($this->past["lane {$lane->from_site}>{$lane->to_site}"] ?? []);
    }

    /** @return list<CartridgeLine> */
    public function cartridges(): array
    {
        $calls = CartridgeCall::query()->whereNull('arrived_at')->orderBy('asked_at')->get();
        $rows = [];
        foreach ($this->seen() as $store) {
            $open = $this->open->of($store);
            if (! ($open instanceof CartridgeStore)) {
                continue;
            }
            $sets = [];
            foreach ($this->copies()->where('store_id', $store->id)->whereNotNull('segments')->pluck('segments') as $segments) {
                foreach (array_unique(array_column((array) json_decode($segments, true), 'label')) as $label) {
                    $sets[$label] = ($sets[$label] ?? 0) + 1;
                }
            }
            try {
                foreach ($open->cartridges() as $cartridge) {
                    $rows[] = new CartridgeLine($store, $cartridge, $sets[$cartridge->label] ?? 0, $calls->first(
                        fn (CartridgeCall $call): bool => $call->store_id === $store->id && $call->label === $cartridge->label,
                    ));
                }
            } catch (UnableToUseTape) {
                continue; // said with the store
            }
        }

        return $rows;
    }

    /**
     * @return list<TroubledCopy> the newest of each workload first; a silent store's are told with the store
     */
    public function trouble(int $limit = 200): array
    {
        $names = $this->open->all()->pluck('name', 'id');
        $rows = [];
        foreach ($this->standings()->whereNotNull('trouble')->orderBy('workloads.name')->pluck('trouble') as $trouble) {
            foreach ((array) json_decode($trouble, true) as $one) {
                if (isset($names[$one['store']])) {
                    $rows[] = new TroubledCopy($one['name'], $names[$one['store']], CopyState::from($one['state']), $one['because']);
                }
            }
        }

        return array_slice($rows, 0, $limit);
    }

    /** When the one that was looked at longest ago was looked at; null where nothing was yet. */
    public function lookedAt(): ?CarbonImmutable
    {
        $at = $this->standings()->min('reckoned_at');

        return $at === null ? null : CarbonImmutable::parse($at);
    }

    private function standings(): Builder
    {
        return DB::table('standings')
            ->join('workloads', 'workloads.id', '=', 'standings.workload_id')
            ->whereIn('workload_id', Workload::seenBy($this->user)->select('id'));
    }
}
