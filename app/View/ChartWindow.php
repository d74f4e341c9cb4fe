<?php

declare(strict_types=1);

namespace App\View;

use Carbon\CarbonImmutable;
use Illuminate\Http\Request;

/** The span of time that a chart shows, and what of it. */
final readonly class ChartWindow
{
    public const NARROWEST = 0.125;

    public const WIDEST = 4400.0;

    public const STATES = ['' => 'all', 'whole' => 'whole', 'hurt' => 'not whole', 'checked' => 'checked', 'proven' => 'proven'];

    private function __construct(
        public float $days,
        /** The middle, as it was asked for; null to let the chart choose. */
        public ?CarbonImmutable $middle,
        /** @var list<string> levels to show; none for all */
        public array $levels,
        /** Of STATES. */
        public string $state,
    ) {
    }

    /** From days, mid (seconds since 1970), levels (joined with commas) and state. */
    public static function of(Request $request, float $days = 14.0): self
    {
        $asked = $request->query('days');
        $mid = $request->query('mid');
        $state = $request->query('state');
        $levels = $request->query('levels');

        return new self(
            is_numeric($asked) && is_finite((float) $asked) ? max(self::NARROWEST, min(self::WIDEST, (float) $asked)) : $days,
            is_string($mid) && preg_match('/^-?\d{1,11}$/D', $mid) === 1 ? CarbonImmutable::createFromTimestampUTC((int) $mid) : null,
            is_string($levels)
                ? array_values(
                    array_filter(explode(',', $levels), fn (string $level): bool => preg_match('/^[a-z0-9]{1,8}$/D', $level) === 1),
                )
                : [],
            is_string($state) && isset(self::STATES[$state]) ? $state : '',
        );
    }

    public function shows(string $level): bool
    {
        return $this->levels === [] || in_array($level, $this->levels, true);
    }

    /** Its part of an address, so near that all that a post stands for can be seen. */
    public function around(ChartPost $post): string
    {
        $days = (($post->last - $post->first) / 86_400_000_000) * 1.2;

        return $this->query(max($this->days / 8, $days), intdiv($post->first + $post->last, 2_000_000));
    }

    /** How far one step leads along the ground, in seconds: half of what is shown. */
    public function step(): int
    {
        return (int) ($this->days * 43_200);
    }

    /** Its part of an address, each with something changed. */
    public function query(?float $days = null, ?int $mid = null): string
    {
        $days = round(max(self::NARROWEST, min(self::WIDEST, $days ?? $this->days)), 3);
        $mid ??= $this->middle?->getTimestamp();

        return "&days=$days".($mid === null ? '' : "&mid=$mid").$this->filters($this->levels, $this->state);
    }

    /**
     * With a level shown or left out.
     *
     * @param  list<string>  $all  levels that there are
     */
    public function turned(string $level, array $all): string
    {
        $shown = $this->levels === [] ? $all : $this->levels;
        $levels = array_values(in_array($level, $shown, true) ? array_diff($shown, [$level]) : array_intersect($all, [...$shown, $level]));

        // None, or all of them, is no filter.
        return $this->span().$this->filters(count($levels) === count($all) ? [] : $levels, $this->state);
    }

    public function inState(string $state): string
    {
        return $this->span().$this->filters($this->levels, $state);
    }

    /** With the middle where it is by itself. */
    public function withoutMiddle(): string
    {
        return '&days='.round($this->days, 3).$this->filtersOnly();
    }

    public function filtersOnly(): string
    {
        return $this->filters($this->levels, $this->state);
    }

    public function inWords(): string
    {
        $days = $this->days;

        return match (true) {
            $days >= 700 => round($days / 365.25, 1).' years',
            $days >= 90 => round($days / 30.44).' months',
            $days >= 14 => round($days / 7, 1).' weeks',
            $days >= 2 => round($days, 1).' days',
            default => round($days * 24).' hours',
        };
    }

    private function span(): string
    {
        return '&days='.round($this->days, 3).($this->middle === null ? '' : '&mid='.$this->middle->getTimestamp());
    }

    /** @param  list<string>  $levels */
    private function filters(array $levels, string $state): string
    {
        return ($levels === [] ? '' : '&levels='.implode(',', $levels)).($state === '' ? '' : "&state=$state");
    }
}
