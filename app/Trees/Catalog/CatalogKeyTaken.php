<?php

declare(strict_types=1);

namespace App\Trees\Catalog;

use RuntimeException;

final class CatalogKeyTaken extends RuntimeException
{
}
