<?php

declare(strict_types=1);

namespace App\Http\Requests;

use Closure;
use Illuminate\Contracts\Validation\ValidationRule;
use InvalidArgumentException;
use Kaiseki\Core\Instant;
use Kaiseki\Core\Order\WantedWords;

/** A moment in words or figures that can be read, in the zone of whoever says it. */
final readonly class SaidMoment implements ValidationRule
{
    public function __construct(private string $zone)
    {
    }

    public function validate(string $attribute, mixed $value, Closure $fail): void
    {
        try {
            $span = (new WantedWords(Instant::of(now()), $this->zone))->read(is_string($value) ? $value : '');
        } catch (InvalidArgumentException $unreadable) {
            $fail($unreadable->getMessage());

            return;
        }
        if ($span->to->microseconds < 0 || $span->to->isAfter(Instant::parse('2200-01-01T00:00:00Z'))) {
            $fail('That moment is too far away.');
        }
    }
}
