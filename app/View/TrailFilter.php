<?php

declare(strict_types=1);

namespace App\View;

use App\Models\TrailEntry;
use App\Models\TrailSort;
use App\Models\User;
use Carbon\CarbonImmutable;
use DateTimeZone;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Http\Request;

/** Which entries of the trail are asked for; what cannot be a filter is none. */
final readonly class TrailFilter
{
    public string $words;

    public ?TrailSort $sort;

    public string $way;

    public string $result;

    /** Dates as they were said, in the zone of who asks; empty for none. */
    public string $from;

    public string $until;

    public function __construct(Request $request, private User $user)
    {
        $this->words = mb_substr(trim($request->string('of')->value()), 0, 200);
        $this->sort = TrailSort::tryFrom($request->string('sort')->value());
        $this->way = self::oneOf($request->string('way')->value(), TrailEntry::WAYS);
        $this->result = self::oneOf($request->string('result')->value(), TrailEntry::RESULTS);
        $this->from = self::date($request->string('from')->value());
        $this->until = self::date($request->string('until')->value());
    }

    /** @return Builder<TrailEntry> those that fit and that the person may read, in no order */
    public function entries(): Builder
    {
        $like = '%'.addcslashes($this->words, '%_\\').'%';

        return TrailEntry::seenBy($this->user)
            ->when($this->sort, fn (Builder $query) => $query->where('sort', $this->sort))
            ->when($this->way !== '', fn (Builder $query) => $query->where('way', $this->way))
            ->when($this->result !== '', fn (Builder $query) => $query->where('result', $this->result))
            ->when($this->from !== '', fn (Builder $query) => $query->where('at', '>=', $this->midnight($this->from)))
            ->when($this->until !== '', fn (Builder $query) => $query->where('at', '<', $this->midnight($this->until)->addDay()))
            ->when(
                $this->words !== '',
                fn (Builder $query) => $query->where(
                    fn (Builder $query) => $query
                        ->where('what', 'like', $like)
                        ->orWhere('actor', 'like', $like)
                        ->orWhere('address', 'like', $like),
                ),
            );
    }

    /** What was said, as a part of an address. */
    public function address(): string
    {
        return http_build_query(
            array_filter(
                [
                    'of' => $this->words,
                    'sort' => $this->sort->value ?? '',
                    'way' => $this->way,
                    'result' => $this->result,
                    'from' => $this->from,
                    'until' => $this->until,
                ],
                fn (string $value): bool => $value !== '',
            ),
        );
    }

    private function midnight(string $date): CarbonImmutable
    {
        return (new CarbonImmutable("$date 00:00", new DateTimeZone($this->user->zone)))->utc();
    }

    /** @param  list<string>  $those */
    private static function oneOf(string $said, array $those): string
    {
        return in_array($said, $those, true) ? $said : '';
    }

    private static function date(string $said): string
    {
        return preg_match('/^(\d{4})-(\d\d)-(\d\d)$/D', $said, $m) === 1 && checkdate((int) $m[2], (int) $m[3], (int) $m[1]) ? $said : '';
    }
}
