<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Order;

use Kaiseki\Core\Database\LogPosition;
use Kaiseki\Core\Instant;

/** Where a restore is to stop, as it was asked for. */
final readonly class Stop
{
    private function __construct(public string $kind, public string $value)
    {
    }

    public static function at(Instant $moment): self
    {
        return new self('at', $moment->iso());
    }

    public static function before(string $gtid): self
    {
        return new self('before', $gtid);
    }

    public static function through(string $gtid): self
    {
        return new self('through', $gtid);
    }

    public static function position(LogPosition $position): self
    {
        return new self('position', $position->text());
    }

    /** Whatever is known. */
    public static function newest(): self
    {
        return new self('newest', '');
    }

    public static function of(string $kind, string $value): self
    {
        return new self($kind, $value);
    }

    /** With a moment as it is in a zone. */
    public function words(string $zone = 'UTC'): string
    {
        return match ($this->kind) {
            'at' => 'as it was at '.($zone === 'UTC' ? $this->value : Instant::parse($this->value)->in($zone)->format('Y-m-d\TH:i:sP')),
            'before' => "as it was before transaction {$this->value}",
            'through' => "as it was right after transaction {$this->value}",
            'position' => "as it was at {$this->value}",
            default => 'as the logs end',
        };
    }
}
