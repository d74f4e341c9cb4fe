<?php

declare(strict_types=1);

namespace App\View;

use App\Models\User;
use App\Models\Workload;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Http\Request;

/** Which workloads of the estate somebody wants to see; whatever makes no sense in it is left out. */
final readonly class EstateFilter
{
    private const LONGEST = 100;

    /** A part of a name, a site or a group; '' for all. */
    public string $text;

    /** The name of a kind; '' for all. */
    public string $kind;

    /** Only those with something to see to. */
    public bool $isConcerning;

    public function __construct(Request $request)
    {
        $this->text = mb_substr(trim($request->string('q')->value()), 0, self::LONGEST);
        $kind = $request->string('kind')->value();
        $this->kind = preg_match('/^[a-z]{1,20}$/D', $kind) === 1 ? $kind : '';
        $this->isConcerning = $request->boolean('concerns');
    }

    public function isNone(): bool
    {
        return $this->text === '' && $this->kind === '' && ! $this->isConcerning;
    }

    /** @return Builder<Workload> those that the person may see; not by their concerns, which no query knows */
    public function workloads(User $user): Builder
    {
        $like = '%'.addcslashes($this->text, '\\%_').'%';

        return Workload::seenBy($user)
            ->when($this->kind !== '', fn (Builder $query) => $query->where('kind', $this->kind))
            ->when($this->text !== '', fn (Builder $query) => $query->where(fn (Builder $any) => $any
                ->where('name', 'like', $like)
                ->orWhere('site', 'like', $like)
                ->orWhere('group', 'like', $like)));
    }
}
