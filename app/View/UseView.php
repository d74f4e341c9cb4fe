<?php

declare(strict_types=1);

namespace App\View;

use App\Care\HeldDays;
use App\Models\Store;
use App\Models\User;
use App\Models\Workload;
use App\Rights\PersonRights;
use Illuminate\Pagination\LengthAwarePaginator;
use Illuminate\Support\Collection;
use Illuminate\Support\Facades\DB;

/** How much lies on each store and of each workload, and how that went over six weeks. */
final class UseView
{
    /** Days that are shown. */
    public const DAYS = 42;

    private const A_PAGE = 50;

    /** @var array<int, array<int, array{int, int, int}>> workload => store => copies, bytes, copies found right */
    private readonly array $held;

    /** @var Collection<int, Store> */
    private readonly Collection $stores;

    public function __construct(public readonly User $user)
    {
        $held = DB::table('standings')
            ->whereIn('workload_id', Workload::seenBy($user)->select('id'))
            ->whereNotNull('held')
            ->pluck('held', 'workload_id');
        $this->held = $held->map(fn (string $json): array => (array) json_decode($json, true))->all();
        $seen = $user->isLimited() ? PersonRights::of($user)->stores()->pluck('id') : null;
        $this->stores = Store::query()->when($seen !== null, fn ($query) => $query->whereIn('id', $seen))->orderBy('name')->get();
    }

    /** @return list<UseLine> by name */
    public function stores(): array
    {
        $days = HeldDays::of($this->user, 'store_id', self::DAYS);

        return array_values(
            $this->stores
                ->map(
                    fn (Store $store): UseLine => new UseLine(
                        $store->name,
                        '/stores',
                        array_sum(array_map(fn (array $of): int => $of[$store->id][0] ?? 0, $this->held)),
                        array_sum(array_map(fn (array $of): int => $of[$store->id][1] ?? 0, $this->held)),
                        $days[$store->id] ?? [],
                        free: $store->free_bytes,
                    ),
                )
                ->all(),
        );
    }

    /** @return LengthAwarePaginator<int, UseLine> what takes most first */
    public function workloads(): LengthAwarePaginator
    {
        $bytes = array_map(fn (array $of): int => array_sum(array_column($of, 1)), $this->held);
        arsort($bytes);
        $page = LengthAwarePaginator::resolveCurrentPage();
        $ids = array_slice(array_keys($bytes), ($page - 1) * self::A_PAGE, self::A_PAGE);
        $names = Workload::query()->whereIn('id', $ids)->pluck('name', 'id');
        $days = HeldDays::of($this->user, 'workload_id', self::DAYS, $ids);
        $stores = $this->stores->pluck('name', 'id');
        $lines = [];
        foreach ($ids as $id) {
            $parts = [];
            foreach ($this->held[$id] as $store => [, $there]) {
                $parts[(string) ($stores[$store] ?? 'another')] = $there;
            }
            $copies = array_sum(array_column($this->held[$id], 0));
            $lines[] = new UseLine((string) ($names[$id] ?? ''), "/workloads/$id", $copies, $bytes[$id], $days[$id] ?? [], $parts);
        }

        return new LengthAwarePaginator($lines, count($bytes), self::A_PAGE, $page, ['path' => '/use']);
    }
}
