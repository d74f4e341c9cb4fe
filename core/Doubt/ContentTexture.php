<?php

declare(strict_types=1);

namespace Kaiseki\Core\Doubt;

/**
 * What a content looks like to somebody who does not understand it, in seven bits: how evenly its bytes are spread
 * (Shannon entropy, in bits a byte, in steps of 1/15), or that it begins as a format does whose bytes are always evenly
 * spread, so that this says nothing.
 */
final readonly class ContentTexture
{
    /** Above this the bytes of text, tables, programs and databases do not get; compressed and enciphered ones do. */
    public const HIGH = 7.5;

    /** At or below this a content was certainly not compressed or enciphered. */
    public const LOW = 7.0;

    private const UNKNOWN = 0;

    private const DENSE = 127;

    private const STEPS = 15;

    private function __construct(public int $code)
    {
    }

    public static function unknown(): self
    {
        return new self(self::UNKNOWN);
    }

    /** Evenly spread by its format: compressed files, pictures, sound, film. */
    public static function dense(): self
    {
        return new self(self::DENSE);
    }

    /** @param  float  $bits  from 0 to 8 */
    public static function ofEntropy(float $bits): self
    {
        return new self(1 + (int) round(max(0.0, min(8.0, $bits)) * self::STEPS));
    }

    public static function of(int $code): self
    {
        return new self($code & 127);
    }

    /** Bits a byte; null where that is not known, or says nothing. */
    public function entropy(): ?float
    {
        return $this->code === self::UNKNOWN || $this->code === self::DENSE ? null : ($this->code - 1) / self::STEPS;
    }

    public function isKnown(): bool
    {
        return $this->code !== self::UNKNOWN;
    }

    public function isDense(): bool
    {
        return $this->code === self::DENSE;
    }

    public function isHigh(): bool
    {
        return ($this->entropy() ?? 0.0) > self::HIGH;
    }

    /** Whether this could be what is left of the other after somebody enciphered it: even now, and then not, or then by its format only. */
    public function isScrambled(self $before): bool
    {
        return $this->isHigh() && ($before->isDense() || ($before->isKnown() && ($before->entropy() ?? 8.0) <= self::LOW));
    }
}
