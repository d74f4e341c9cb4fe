<?php

declare(strict_types=1);

namespace App\View;

use App\Models\RecoveryRequest;
use App\Models\User;
use App\Models\Workload;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Http\Request;

/** Which requests somebody wants to see; whatever makes no sense in it is left out. */
final readonly class RequestFilter
{
    public const STATES = ['open' => 'open', 'answer' => 'waits for a yes', 'closed' => 'closed'];

    private const LONGEST = 100;

    public string $text;

    /** '' for all that are not closed. */
    public string $state;

    public ?int $workload;

    public bool $isDueSoon;

    public function __construct(Request $request)
    {
        $this->text = mb_substr(trim($request->string('q')->value()), 0, self::LONGEST);
        $state = $request->string('state')->value();
        $this->state = isset(self::STATES[$state]) ? $state : '';
        $this->workload = $request->integer('workload') > 0 ? $request->integer('workload') : null;
        $this->isDueSoon = $request->boolean('soon');
    }

    public function isNone(): bool
    {
        return $this->query() === '';
    }

    /** The same as part of an address, the shortest that says it. */
    public function query(): string
    {
        return http_build_query(array_filter(
            ['q' => $this->text, 'state' => $this->state, 'workload' => $this->workload, 'soon' => $this->isDueSoon ? 1 : null],
            fn (mixed $one): bool => $one !== null && $one !== '',
        ));
    }

    /** @return Builder<RecoveryRequest> those that the person may see, the one that is due first first; of closed ones the last first */
    public function requests(User $user): Builder
    {
        $like = '%'.addcslashes($this->text, '\\%_').'%';

        return RecoveryRequest::seenBy($user)
            ->with('workload', 'requester')
            ->when($this->state === '', fn (Builder $query) => $query->where('state', '<>', 'closed'))
            ->when($this->state !== '', fn (Builder $query) => $query->where('state', $this->state))
            ->when($this->workload !== null, fn (Builder $query) => $query
                ->where('workload_id', $this->workload)
                ->whereIn('workload_id', Workload::seenBy($user)->select('id')))
            ->when($this->isDueSoon, fn (Builder $query) => $query->where('due_at', '<', now()->addHours(2)))
            ->when($this->text !== '', fn (Builder $query) => $query->where(fn (Builder $any) => $any
                ->where('summary', 'like', $like)
                ->orWhereHas('requester', fn (Builder $who) => $who->where('name', 'like', $like))
                ->when(ctype_digit($this->text), fn (Builder $number) => $number->orWhere('id', (int) $this->text))))
            ->when($this->state === 'closed', fn (Builder $query) => $query->latest('closed_at'))
            ->when($this->state !== 'closed', fn (Builder $query) => $query->orderBy('due_at'));
    }
}
