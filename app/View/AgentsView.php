<?php

declare(strict_types=1);

namespace App\View;

use App\Agents\Agent;
use App\Line\LineAddress;
use App\Models\User;
use App\Rights\Groups;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Database\Eloquent\Collection;
use Illuminate\Database\Eloquent\Relations\Relation;

/** Machines that send their sets themselves, of the workloads that somebody sees. */
final readonly class AgentsView
{
    /** Of those that are over, so many of the newest are shown. */
    private const OVER = 20;

    public function __construct(public User $user)
    {
    }

    /** @return Collection<int, Agent> those that ask or may come, by the name of their workload */
    public function current(): Collection
    {
        return $this->seen()->whereNull('ended_at')->get()->sortBy(fn (Agent $one): string => $one->workload->name)->values();
    }

    /** @return Collection<int, Agent> the newest first */
    public function over(): Collection
    {
        return $this->seen()->whereNotNull('ended_at')->orderByDesc('id')->limit(self::OVER)->get();
    }

    public function mayMake(): bool
    {
        return $this->user->can('make', Agent::class);
    }

    /** @return list<string> groups that a new workload may have */
    public function groups(): array
    {
        return $this->user->seesAllGroups() ? Groups::known() : $this->user->groups();
    }

    /** As machines reach the line of this desk; only this machine reaches loopback. */
    public function desk(): string
    {
        $usual = LineAddress::here();

        return str_starts_with($usual, '127.') ? '' : $usual;
    }

    /** @return Builder<Agent> */
    private function seen(): Builder
    {
        $query = Agent::query()->with(['workload' => fn (Relation $of) => $of->withMax('sets', 'captured_at')]);

        return $this->user->seesAllGroups()
            ? $query
            : $query->whereHas('workload', fn (Builder $of) => $of->whereIn('group', $this->user->groups()));
    }
}
