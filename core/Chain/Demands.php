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
    ) {
    }

    /**
     * @param  string  $list  of consistent, clear, checked, site=NAME; or none
     *
     * @throws InvalidArgumentException
     */
    public static function parse(string $list): self
    {
        $words = array_filter(array_map(trim(...), explode(',', $list)), fn (string $word): bool => $word !== '');
        $site = null;
        foreach ($words as $word) {
            if (str_starts_with($word, 'site=') && strlen($word) > 5) {
                $site = substr($word, 5);
            } elseif (! in_array($word, ['consistent', 'clear', 'checked', 'none'], true)) {
                throw new InvalidArgumentException("\"$word\" is not a demand. Demands are consistent, clear, checked, site=NAME, or none.");
            }
        }
        if (in_array('none', $words, true) && count($words) > 1) {
            throw new InvalidArgumentException('"none" stands alone in a list of demands.');
        }

        return new self(in_array('consistent', $words, true), in_array('clear', $words, true), in_array('checked', $words, true), $site);
    }

    public function list(): string
    {
        $words = array_keys(array_filter(['consistent' => $this->consistent, 'clear' => $this->clear, 'checked' => $this->checked]));
        if ($this->site !== null) {
            $words[] = 'site='.$this->site;
        }

        return $words === [] ? 'none' : implode(',', $words);
    }

    /**
     * Why the set does not meet them; null if it does.
     *
     * @param  array<string, string>  $sites  store => site
     */
    public function unmetBy(BackupSet $set, array $sites): ?string
    {
        if ($this->consistent && ! $set->consistent) {
            return 'it is not consistent enough for its kind';
        }
        if ($this->clear && $set->inDoubt) {
            return 'it is in doubt: there are signs that the content was damaged before it was backed up';
        }
        $readable = $set->readableCopies();
        if ($this->checked && array_filter($readable, fn (SetCopy $copy): bool => $copy->state === CopyState::Checked) === []) {
            return 'no copy of it was read back and checked';
        }
        if ($this->site !== null && array_filter($readable, fn (SetCopy $copy): bool => ($sites[$copy->store] ?? null) === $this->site) === []) {
            return "no readable copy of it is at {$this->site}";
        }

        return null;
    }
}
