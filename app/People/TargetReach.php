<?php

declare(strict_types=1);

namespace App\People;

use App\Models\Copy;
use App\Models\DatabaseServer;
use App\Models\Host;
use App\Models\Role;
use App\Models\Run;
use App\Models\Store;
use App\Models\User;
use App\Models\Workload;
use App\Runs\RestorePlan;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Support\Collection;
use Kaiseki\Core\Files\UnableToRestore;

/**
 * Which hosts, servers, stores and cartridges somebody may name in an order. Until those have groups of their own, whoever is limited to
 * groups of workloads reaches what belongs to a workload that they see, and nothing in which the original of another lies.
 */
final readonly class TargetReach
{
    public function __construct(private User $user)
    {
    }

    public function host(Host $host): bool
    {
        $isOf = fn (Workload $workload): bool => $workload->name === $host->name
            || ($host->kind === 'folder' && $workload->source !== null && self::isWithin($workload->source, $host->folder));

        return ! $this->user->isLimited() || Workload::seenBy($this->user)->get()->contains($isOf);
    }

    public function server(DatabaseServer $server): bool
    {
        return ! $this->user->isLimited() || Workload::seenBy($this->user)->where('server_id', $server->id)->exists();
    }

    public function store(Store $store): bool
    {
        return ! $this->user->isLimited() || $this->copies()->where('store_id', $store->id)->exists();
    }

    public function cartridge(Store $store, string $label): bool
    {
        return ! $this->user->isLimited()
            || $this->copies()->where('store_id', $store->id)->whereJsonContains('segments', [['label' => $label]])->exists();
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

        return Workload::query()->whereNotNull('source')->get()->filter(function (Workload $workload) use ($folder, $real): bool {
            $source = realpath((string) $workload->source) ?: (string) $workload->source;

            return self::isWithin($real, $source) || self::isWithin($source, $real) || self::isWithin($folder, (string) $workload->source);
        })->values();
    }

    /**
     * The workloads that are marked, of those whose original an order may change.
     *
     * @param  string|null  $folder  of this machine
     * @param  string|null  $server  its name
     * @return list<Workload>
     */
    public static function marked(?string $folder, ?string $server): array
    {
        $owners = $folder === null || $folder === '' ? collect() : self::ownersOf($folder);
        $atServer = $server === null ? collect() : Workload::query()->whereRelation('server', 'name', $server)->get();

        return array_values($owners->concat($atServer)->filter(fn (Workload $workload): bool => $workload->needs_approval)->all());
    }

    private static function isWithin(string $path, string $folder): bool
    {
        return str_starts_with(rtrim($path, '/').'/', rtrim($folder, '/').'/');
    }

    /** Why an order to a host's folder is refused; null if it is not. */
    public function refusesFolder(?Host $host, string $folder): ?string
    {
        return match (true) {
            $host !== null && ! $this->host($host) => "The host {$host->name} belongs to no workload of yours.",
            $host?->kind === 'sftp' || $folder === '' || $this->folder($folder) => null,
            default => 'In that folder lies the original of a workload that is not yours.',
        };
    }

    /** Why an order to a server is refused; null if it is not. */
    public function refusesServer(DatabaseServer $server): ?string
    {
        return $this->server($server) ? null : "The server {$server->name} belongs to no workload of yours.";
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
            default => (new self($user))->refusesPlan($run),
        };
        if ($because !== null) {
            throw UnableToRestore::targetUnfit("Run {$run->id}", $because);
        }
    }

    private function refusesPlan(Run $run): ?string
    {
        if ($run->isOfDatabase()) {
            $server = DatabaseServer::query()->where('name', $run->plan['server'] ?? '')->first();

            return $server === null ? null : $this->refusesServer($server);
        }
        $plan = RestorePlan::fromArray($run->plan);

        return $plan->download !== '' ? null : $this->refusesFolder($plan->hostModel(), $plan->target);
    }

    /** @return Builder<Store> those that they may name */
    public function stores(): Builder
    {
        return ! $this->user->isLimited() ? Store::query() : Store::query()->whereIn('id', $this->copies()->select('store_id'));
    }
}
