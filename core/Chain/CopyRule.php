<?php

declare(strict_types=1);

namespace Kaiseki\Core\Chain;

use InvalidArgumentException;

/**
 * Which copies are to be read: stores, or single cartridges of a store (STORE/LABEL), to use wherever they hold a copy, and others to
 * leave alone.
 */
final readonly class CopyRule
{
    /**
     * @param  list<string>  $use
     * @param  list<string>  $avoid
     */
    public function __construct(public array $use = [], public array $avoid = [])
    {
    }

    /**
     * @param  list<string>  $stores  that there are
     *
     * @throws InvalidArgumentException naming one that is not there
     */
    public function mustName(array $stores): self
    {
        foreach ([...$this->use, ...$this->avoid] as $name) {
            if (! in_array($name, $stores, true) && ! in_array(strstr($name, '/', true), $stores, true)) {
                throw new InvalidArgumentException("There is no store named \"$name\". Stores are: ".implode(', ', $stores).'.');
            }
        }

        return $this;
    }

    public function isNone(): bool
    {
        return $this->use === [] && $this->avoid === [];
    }

    /** @return list<SetCopy> those of a set that can be read and may be */
    public function readable(BackupSet $set): array
    {
        return $this->among($set->readableCopies());
    }

    /**
     * @param  list<SetCopy>  $copies of one set
     * @return list<SetCopy> those that may be read
     */
    public function among(array $copies): array
    {
        if ($this->isNone()) {
            return $copies;
        }
        $copies = array_values(array_filter($copies, fn (SetCopy $copy): bool => ! self::isAmong($copy, $this->avoid)));
        $used = array_values(array_filter($copies, fn (SetCopy $copy): bool => self::isAmong($copy, $this->use)));

        return $used === [] ? $copies : $used;
    }

    /** @param  list<string>  $names */
    private static function isAmong(SetCopy $copy, array $names): bool
    {
        return in_array($copy->store, $names, true) ||
            array_filter($copy->media, fn (string $medium): bool => in_array("{$copy->store}/$medium", $names, true)) !== [];
    }
}
