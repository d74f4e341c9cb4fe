<?php

declare(strict_types=1);

namespace App\Activity;

use Carbon\CarbonImmutable;
use Illuminate\Http\Request;

/** Which activity somebody wants to see: always of one week, in their zone. Whatever makes no sense in it is left out. */
final readonly class ActivityFilter
{
    /** Stands for what nobody ordered: the clock, and the command line without an account. */
    public const NOBODY = 'nobody';

    /** Begin of the week, in the zone of the person. */
    public CarbonImmutable $from;

    public ?ActivitySort $sort;

    public ?ActivityResult $result;

    public ?int $workload;

    /** The name of a kind of workload; '' for all. */
    public string $kind;

    /** A user's id, or NOBODY; '' for all. */
    public string $person;

    public function __construct(Request $request, string $zone)
    {
        $this->from = self::week($request->string('week')->value(), $zone);
        $this->sort = ActivitySort::tryFrom($request->string('what')->value());
        $this->result = ActivityResult::tryFrom($request->string('result')->value());
        $this->workload = $request->integer('workload') > 0 ? $request->integer('workload') : null;
        $this->kind = preg_match('/^[a-z]{1,20}$/D', $request->string('kind')->value()) === 1 ? $request->string('kind')->value() : '';
        $person = $request->string('person')->value();
        $this->person = $person === self::NOBODY || preg_match('/^[1-9]\d{0,17}$/D', $person) === 1 ? $person : '';
    }

    /** @param  string  $said  an ISO week such as 2026-W48; any other for this week */
    private static function week(string $said, string $zone): CarbonImmutable
    {
        $now = CarbonImmutable::now($zone);
        if (preg_match('/^(20\d\d)-W(\d\d)$/D', $said, $m) === 1 && (int) $m[2] >= 1 && (int) $m[2] <= 53) {
            $now = $now->setISODate((int) $m[1], (int) $m[2]);
        }

        return $now->startOfWeek(CarbonImmutable::MONDAY)->startOfDay();
    }

    public function until(): CarbonImmutable
    {
        return $this->from->addWeek();
    }

    public function isThisWeek(): bool
    {
        return $this->until()->isFuture();
    }

    public function isNone(): bool
    {
        return array_diff_key($this->said(), ['week' => true]) === [];
    }

    /** The address of the same filter with other values of some of its fields. */
    public function url(string|int|null ...$changes): string
    {
        $query = array_filter($changes + $this->said(), fn (mixed $one): bool => $one !== null && $one !== '');

        return '/activity'.($query === [] ? '' : '?'.http_build_query($query));
    }

    /** Of the week that so many weeks later begins. */
    public function weekUrl(int $weeks): string
    {
        return $this->url(week: $this->from->addWeeks($weeks)->format('o-\WW'));
    }

    /** @return array<string, string|int> what was said, by the names of the fields */
    public function said(): array
    {
        return array_filter(
            [
                'week' => $this->isThisWeek() ? null : $this->from->format('o-\WW'),
                'what' => $this->sort?->value,
                'result' => $this->result?->value,
                'workload' => $this->workload,
                'kind' => $this->kind,
                'person' => $this->person,
            ],
            fn (mixed $one): bool => $one !== null && $one !== '',
        );
    }
}
