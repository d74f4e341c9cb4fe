<?php

declare(strict_types=1);

namespace App\View;

use App\Models\Alarm;
use App\Models\RecoveryRequest;
use App\Models\Run;
use App\Models\User;
use App\Models\Workload;
use Illuminate\Http\Request;
use Illuminate\Pagination\LengthAwarePaginator;
use Illuminate\Support\Collection;
use Illuminate\Support\Facades\DB;
use stdClass;

/** What somebody finds on the desk: what waits for them, the requests, and what runs now. */
final class DeskView
{
    private const A_PAGE = 50;

    /** Before one asks for all of them. */
    private const WAITING = 8;

    private const RUNNING = 20;

    public readonly RequestFilter $filter;

    /** @var list<WaitingThing> */
    public readonly array $waiting;

    /** @var LengthAwarePaginator<int, RecoveryRequest> */
    public readonly LengthAwarePaginator $requests;

    private readonly bool $showsAll;

    public function __construct(public readonly User $user, Request $http)
    {
        $this->filter = new RequestFilter($http);
        $this->waiting = WaitingThings::of($user);
        $this->showsAll = $http->boolean('all');
        $this->requests = $this->filter->requests($user)->paginate(self::A_PAGE)->withQueryString();
    }

    /** @return list<WaitingThing> */
    public function shown(): array
    {
        return $this->showsAll ? $this->waiting : array_slice($this->waiting, 0, self::WAITING);
    }

    /** Alarms of what they see that nobody has taken; none for who only asks. */
    public function alarms(): int
    {
        return $this->user->seesWork() ? Alarm::seenBy($this->user)->whereNotNull('open')->whereNull('taken_at')->count() : 0;
    }

    public function more(): int
    {
        return count($this->waiting) - count($this->shown());
    }

    /** @return Collection<int, Run> */
    public function running(): Collection
    {
        return Run::query()
            ->with('workload', 'request.workload')
            ->whereIn('state', ['queued', 'running'])
            ->whereIn('workload_id', Workload::seenBy($this->user)->select('id'))
            ->latest('id')
            ->limit(self::RUNNING)
            ->get()
            ->filter(fn (Run $run): bool => $this->user->can('view', $run));
    }

    /** @return Collection<int, RecoveryRequest> */
    public function closed(): Collection
    {
        return RecoveryRequest::seenBy($this->user)->with('requester')->where('state', 'closed')->latest('closed_at')->limit(5)->get();
    }

    /** @return Collection<int, Workload> */
    public function workloads(): Collection
    {
        return Workload::seenBy($this->user)->orderBy('name')->get(['id', 'name']);
    }

    /** @return Collection<int, stdClass> the person's own: name and query */
    public function filters(): Collection
    {
        return DB::table('saved_filters')->where('user_id', $this->user->id)->orderBy('name')->get(['name', 'query']);
    }

    /** As a request's workload may be called before this person. */
    public function about(RecoveryRequest $request): string
    {
        return match (true) {
            $request->workload === null => 'not sure',
            $this->user->sees($request->workload->group) => $request->workload->name,
            default => 'another',
        };
    }
}
