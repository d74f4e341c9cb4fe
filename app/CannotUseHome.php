<?php

declare(strict_types=1);

namespace App;

use RuntimeException;

final class CannotUseHome extends RuntimeException
{
}
