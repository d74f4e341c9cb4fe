<?php

declare(strict_types=1);

namespace Kaiseki\Core\Chain;

use InvalidArgumentException;

/** What the chosen point must be. They bind that point, not the pieces beneath it. */
final readonly class Demands
{
    public function __construct(
        public bool $consistent = true,
        public bool $clear = true,
        public bool $checked = false,
        /** A readable copy of the point's own set must be at this site. */
        public ?string $site = null,
        /** At most so many seconds before the wanted moment. */
        public ?int $withinSeconds = null,
    ) {
    }

    public static function none(): self
    {
        return new self(false, false);
    }

    /**
     * @param  string  $list  of consistent, clear, checked, site=NAME, within=SPAN (30m, 36h, 7d); or none
     *
     * @throws InvalidArgumentException
     */
    public static function parse(string $list): self
    {
        $words = array_filter(array_map(trim(...), explode(',', $list)), fn (string $word): bool => $word !== '');
        $site = $within = null;
        foreach ($words as $word) {
            if (str_starts_with($word, 'site=') && strlen($word) > 5) {
                $site = substr($word, 5);
            } elseif (str_starts_with($word, 'within=')) {
                $within = self::span(substr($word, 7));
            } elseif (! in_array($word, ['consistent', 'clear', 'checked', 'none'], true)) {
                throw new InvalidArgumentException(
                    "\"$word\" is not a demand. Demands are consistent, clear, checked, site=NAME, within=SPAN (such as 36h), or none.",
                );
            }
        }
        if (in_array('none', $words, true) && count($words) > 1) {
            throw new InvalidArgumentException('"none" stands alone in a list of demands.');
        }

        return new self(
            in_array('consistent', $words, true),
            in_array('clear', $words, true),
            in_array('checked', $words, true),
            $site,
            $within,
        );
    }

    public function list(): string
    {
        $words = array_keys(array_filter(['consistent' => $this->consistent, 'clear' => $this->clear, 'checked' => $this->checked]));
        if ($this->site !== null) {
            $words[] = 'site='.$this->site;
        }

        if ($this->withinSeconds !== null) {
            $words[] = 'within='.self::spanInWords($this->withinSeconds);
        }

        return $words === [] ? 'none' : implode(',', $words);
    }

    /**
     * A span as people write it: 45s, 30m, 36h, 7d; a bare number is hours.
     *
     * @return int seconds
     *
     * @throws InvalidArgumentException
     */
    public static function span(string $text): int
    {
        if (preg_match('/^(\d{1,6})\s*([smhd]?)$/D', trim($text), $m) !== 1 || (int) $m[1] === 0) {
            throw new InvalidArgumentException("\"$text\" is not a span. Write it as 30m, 36h or 7d.");
        }

        return (int) $m[1] *
            match ($m[2]) {
                's' => 1,
                'm' => 60,
                'd' => 86400,
                default => 3600,
            };
    }

    /** The shortest way to write a span. */
    public static function spanInWords(int $seconds): string
    {
        return match (true) {
            $seconds % 86400 === 0 => $seconds / 86400 .'d',
            $seconds % 3600 === 0 => $seconds / 3600 .'h',
            $seconds % 60 === 0 => $seconds / 60 .'m',
            default => $seconds.'s',
        };
    }

    public function isTooOld(int|float $secondsBefore): bool
    {
        return $this->withinSeconds !== null && $secondsBefore > $this->withinSeconds;
    }

    public function tooOldBecause(): string
    {
        return 'it is more than '.self::spanInWords((int) $this->withinSeconds).' older than the wanted moment';
    }

    /**
     * Why the set does not meet them; null if it does.
     *
     * @param  array<string, string>  $sites  store => site
     * @param  string|null  $doubt  why the content is in doubt; null if it is not
     */
    public function unmetBy(BackupSet $set, array $sites, ?string $doubt): ?string
    {
        if ($this->consistent && ! $set->consistent) {
            return 'it is not consistent enough for its kind';
        }
        if ($this->clear && $doubt !== null) {
            return $doubt;
        }
        $readable = $set->readableCopies();
        if ($this->checked && array_filter($readable, fn (SetCopy $copy): bool => $copy->state === CopyState::Checked) === []) {
            return 'no copy of it was read back and checked';
        }
        if (
            $this->site !== null &&
            array_filter($readable, fn (SetCopy $copy): bool => ($sites[$copy->store] ?? null) === $this->site) === []
        ) {
            return "no readable copy of it is at {$this->site}";
        }

        return null;
    }
}
