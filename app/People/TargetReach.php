<?php

declare(strict_types=1);

namespace App\People;

use App\Kinds\Kinds;
use App\Models\Copy;
use App\Models\Host;
use App\Models\Role;
use App\Models\Run;
use App\Models\Store;
use App\Models\User;
use App\Models\Workload;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Support\Collection;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Files\UnableToRestore;

/**
 * Which hosts, stores and cartridges somebody may name in an order. Until those have groups of their own, whoever is limited to
 * groups of workloads reaches what belongs to a workload that they see, and nothing in which the original of another lies.
 */
final class TargetReach
{
    /** @var Collection<int, Workload>|null */
    private ?Collection $workloads = null;

    public function __construct(private readonly User $user)
    {
    }

    /** @return Collection<int, Workload> those that they see */
    private function workloads(): Collection
    {
        return $this->workloads ??= Workload::seenBy($this->user)->get();
    }

    public function host(Host $host): bool
    {
        return ! $this->user->isLimited()
            || $this->workloads()->contains(fn (Workload $workload): bool => self::isHostOf($host, $workload));
    }

    /** Whether a workload's original lies on a host, or the host has its name. */
    public static function isHostOf(Host $host, Workload $workload): bool
    {
        return $workload->name === $host->name ||
            ($host->kind === 'folder' && $workload->source !== null && self::isWithin($workload->source, $host->folder));
    }

    public function store(Store $store): bool
    {
        return ! $this->user->isLimited() || $this->copies()->where('store_id', $store->id)->exists();
    }

    public function cartridge(Store $store, string $label): bool
    {
        return ! $this->user->isLimited() ||
            $this->copies()
                ->where('store_id', $store->id)
                ->whereJsonContains('segments', [['label' => $label]])
                ->exists();
    }

    /** @return Builder<Copy> of workloads that they see */
    private function copies(): Builder
    {
        return Copy::query()->whereIn('workload_id', Workload::seenBy($this->user)->select('id'));
    }

    /** Whether a folder of this machine holds nothing of a workload that they do not see. */
    public function folder(string $folder): bool
    {
        return self::ownersOf($folder)->every(fn (Workload $workload): bool => $this->user->sees($workload->group));
    }

    /**
     * The workloads whose original a folder of this machine is, holds, or lies in.
     *
     * @return Collection<int, Workload>
     */
    public static function ownersOf(string $folder): Collection
    {
        $real = realpath($folder) ?: $folder;

        return Workload::query()
            ->whereNotNull('source')
            ->get()
            ->filter(function (Workload $workload) use ($folder, $real): bool {
                $source = realpath((string) $workload->source) ?: (string) $workload->source;

                return self::isWithin($real, $source) ||
                    self::isWithin($source, $real) ||
                    self::isWithin($folder, (string) $workload->source);
            })
            ->values();
    }

    /** Whether no folder of this machine is meant. */
    public static function isElsewhere(?Host $host, string $folder): bool
    {
        return $host?->kind === 'sftp' || $folder === '';
    }

    private static function isWithin(string $path, string $folder): bool
    {
        return str_starts_with(rtrim($path, '/').'/', rtrim($folder, '/').'/');
    }

    /** Why an order to a host is refused; null if it is not. */
    public function refusesHost(Host $host): ?string
    {
        return $this->host($host) ? null : "The host {$host->name} belongs to no workload of yours.";
    }

    /** Why an order to a host's folder is refused; null if it is not. */
    public function refusesFolder(?Host $host, string $folder): ?string
    {
        $because = $host === null ? null : $this->refusesHost($host);
        if ($because !== null || self::isElsewhere($host, $folder) || $this->folder($folder)) {
            return $because;
        }

        return 'In that folder lies the original of a workload that is not yours.';
    }

    /** Why an order that names stores to use or avoid is refused; null if it is not. */
    public function refusesStores(CopyRule $rule): ?string
    {
        $stores = array_diff([...$rule->use, ...$rule->avoid], $this->stores()->pluck('name')->all());

        return $stores === [] ? null : 'The store '.implode(', ', $stores).' holds nothing of a workload of yours.';
    }

    /**
     * Asked again when a run begins: who ordered it may have been limited, or locked, since.
     *
     * @throws UnableToRestore
     */
    public static function refuseRun(Run $run): void
    {
        $user = $run->user;
        if ($user === null) {
            return; // from the command line, by whoever has this machine
        }
        $because = match (true) {
            $user->locked_at !== null => "{$user->name}, who ordered it, is locked.",
            $user->role !== Role::Operator => "{$user->name}, who ordered it, is no operator any more.",
            ! $user->sees($run->workload->group) => "{$user->name}, who ordered it, does not see {$run->workload->name} any more.",
            default => Kinds::of($run)->carrier()->touches($run)->refusedTo($user),
        };
        if ($because !== null) {
            throw UnableToRestore::refused("Run {$run->id} is refused: $because");
        }
    }

    /** @return Builder<Store> those that they may name */
    public function stores(): Builder
    {
        return ! $this->user->isLimited() ? Store::query() : Store::query()->whereIn('id', $this->copies()->select('store_id'));
    }
}
