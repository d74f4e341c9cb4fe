<?php

declare(strict_types=1);

namespace App\Care;

use RuntimeException;

/** The hours in which copies may be read back ended while one was read. */
final class HoursAreOver extends RuntimeException
{
}
