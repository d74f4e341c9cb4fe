<?php

declare(strict_types=1);

namespace App\Trees\Run;

use Closure;
use Kaiseki\Core\Archive\ContentSink;

/** A content on its way into an archive that is being sent: held until it was found right, or passed on at once. */
final class TarContent implements ContentSink
{
    private const ZEROS = 262144;

    public string $held = '';

    public bool $passedOn = false;

    /** @param  (Closure(string): void)|null  $on  null holds it */
    public function __construct(private readonly ?Closure $on)
    {
    }

    public function data(string $bytes): void
    {
        if ($this->on === null) {
            $this->held .= $bytes;
        } else {
            $this->passedOn = true;
            ($this->on)($bytes);
        }
    }

    public function hole(int $length): void
    {
        for (; $length > 0; $length -= self::ZEROS) {
            $this->data(str_repeat("\0", min($length, self::ZEROS)));
        }
    }
}
