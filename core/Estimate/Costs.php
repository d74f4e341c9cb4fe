<?php

declare(strict_types=1);

namespace Kaiseki\Core\Estimate;

/** What the parts of a restore cost, measured where runs have measured it, else as common practice has it. */
final readonly class Costs
{
    /** Seconds for each file on a target that was never measured: common practice puts several thousand small files at about a minute. */
    private const PER_FILE = 0.012;

    /** 10^6 bytes a second that a target takes: a disk array's ordinary rate; common practice. */
    private const WRITE_MB_S = 150.0;

    /** A person's way to the shelf and back, seconds; common practice: a quarter of an hour on site. */
    private const FETCH = 900.0;

    /**
     * @param  array<array-key, MeasuredRate>  $reading  store => 10^6 bytes a second on the way to the target, where measured
     */
    public function __construct(
        public array $reading = [],
        public ?MeasuredRate $perFile = null,
        public ?MeasuredRate $write = null,
        public ?MeasuredRate $fetch = null,
    ) {
    }

    /** Seconds to read something that takes so long at the likely rate. */
    public function reading(string $store, float $seconds): DurationRange
    {
        $rate = $this->reading[$store] ?? null;

        return $rate === null
            ? DurationRange::of($seconds, $seconds * 0.6, $seconds * 2.0)
            : DurationRange::of(
                $seconds,
                ($seconds * $rate->likely) / max($rate->high, 1e-9),
                ($seconds * $rate->likely) / max($rate->low, 1e-9),
            );
    }

    public function files(int $count): DurationRange
    {
        $each = $this->perFile;

        return $each === null
            ? DurationRange::of($count * self::PER_FILE, ($count * self::PER_FILE) / 50, $count * self::PER_FILE * 2)
            : DurationRange::of($count * $each->likely, $count * $each->low, $count * $each->high);
    }

    /** Seconds to write bytes to the target, and the same again to read them from there for the proof. */
    public function writing(int $bytes): DurationRange
    {
        $rate = $this->write;

        return $rate === null
            ? self::at($bytes, self::WRITE_MB_S, self::WRITE_MB_S / 3, self::WRITE_MB_S * 6)
            : self::at($bytes, $rate->likely, $rate->low, $rate->high);
    }

    public function fetching(int $cartridges): DurationRange
    {
        if ($cartridges === 0) {
            return DurationRange::none();
        }

        // One way, however many are carried.
        return $this->fetch === null
            ? DurationRange::of(self::FETCH, self::FETCH / 3, self::FETCH * 4)
            : DurationRange::of($this->fetch->likely, $this->fetch->low, $this->fetch->high);
    }

    private static function at(int $bytes, float $likely, float $low, float $high): DurationRange
    {
        return DurationRange::of($bytes / ($likely * 1e6), $bytes / (max($high, 1e-9) * 1e6), $bytes / (max($low, 1e-9) * 1e6));
    }
}
