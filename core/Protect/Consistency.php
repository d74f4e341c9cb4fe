<?php

declare(strict_types=1);

namespace Kaiseki\Core\Protect;

/** How well what is in one set fits together, as it stands in its record. */
enum Consistency: string
{
    case Application = 'application';
    case Files = 'files';
    case Crash = 'crash';
    case None = 'none';
    case Unknown = 'unknown';

    /** Whether all of it is of one instant. */
    public function isOfOneInstant(): bool
    {
        return in_array($this, [self::Application, self::Files, self::Crash], true);
    }

    /** What it means for a program whose data is in it. */
    public function words(): string
    {
        return match ($this) {
            self::Application => 'the program was brought to rest before, and released after',
            self::Files => 'file systems were at rest; programs were not told',
            self::Crash => 'as after a power cut: the program must repair itself',
            self::None => 'a command around it failed: files may not fit each other',
            self::Unknown => 'not known: files were read one after the other while the source lived',
        };
    }
}
