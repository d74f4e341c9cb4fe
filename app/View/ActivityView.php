<?php

declare(strict_types=1);

namespace App\View;

use App\Activity\Activities;
use App\Activity\ActivityFilter;
use App\Activity\ActivityLine;
use App\Kinds\Kinds;
use App\Models\User;
use App\Models\Workload;
use Illuminate\Http\Request;
use Illuminate\Pagination\LengthAwarePaginator;
use Illuminate\Support\Collection;
use stdClass;

/** What was done to the estate in a week. */
final readonly class ActivityView
{
    public ActivityFilter $filter;

    /** @var LengthAwarePaginator<int, ActivityLine> */
    public LengthAwarePaginator $lines;

    /** @var Collection<int, stdClass> see Activities::sums() */
    public Collection $sums;

    public function __construct(public User $user, Request $http)
    {
        $this->filter = new ActivityFilter($http, $user->zone);
        $activities = new Activities($user, $this->filter);
        $this->sums = $activities->sums();
        $this->lines = $activities->page((int) array_sum($this->sums->pluck('count')->all()));
    }

    /** @return Collection<int, Workload> */
    public function workloads(): Collection
    {
        return Workload::seenBy($this->user)->orderBy('name')->get(['id', 'name']);
    }

    /** @return list<string> names of kinds */
    public function kinds(): array
    {
        return array_map(strval(...), array_keys(Kinds::all()));
    }

    /** @return Collection<int, User> those who can order something */
    public function people(): Collection
    {
        return User::query()->orderBy('name')->get(['id', 'name']);
    }
}
