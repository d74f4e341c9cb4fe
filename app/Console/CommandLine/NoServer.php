<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use RuntimeException;

/** A database server that does not answer, or does not let us in. */
final class NoServer extends RuntimeException
{
}
