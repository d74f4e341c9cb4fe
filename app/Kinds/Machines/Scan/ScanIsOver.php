<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Scan;

use RuntimeException;

/** The time that a scan may take has passed. */
final class ScanIsOver extends RuntimeException
{
}
