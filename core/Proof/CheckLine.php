<?php

declare(strict_types=1);

namespace Kaiseki\Core\Proof;

/** One thing that was looked at and what came of it: a line of a proof, or of what is looked at before a run. */
final readonly class CheckLine
{
    public const PASSED = 'passed';

    public const FAILED = 'failed';

    /** Could not be looked at, which is no fault. */
    public const NOT_SEEN = 'not seen';

    /** To be known, and neither right nor wrong. */
    public const NOTE = 'note';

    /**
     * @param  string  $check  what was looked at: "every block was to be had"
     * @param  string  $result  one of the above, or another word for why it was not looked at
     * @param  string  $detail  what was seen
     */
    public function __construct(public string $check, public string $result, public string $detail)
    {
    }

    public static function of(string $check, bool $isRight, string $detail): self
    {
        return new self($check, $isRight ? self::PASSED : self::FAILED, $detail);
    }

    /**
     * @param  list<string>  $wrong  none if it passed; the first ten are told
     * @param  string  $right  what is said if it passed
     */
    public static function unless(array $wrong, string $check, string $right): self
    {
        return self::of($check, $wrong === [], mb_scrub($wrong === [] ? $right : implode('; ', array_slice($wrong, 0, 10))));
    }

    /** @return list<self> of what an outcome keeps; none if it keeps none */
    public static function all(mixed $kept): array
    {
        return array_map(
            fn (array $row): self => new self((string) $row['check'], (string) $row['result'], (string) $row['detail']),
            array_values((array) $kept),
        );
    }

    /**
     * @param  list<self>  $lines
     * @return list<array{check: string, result: string, detail: string}> as outcomes, proofs and documents keep them
     */
    public static function kept(array $lines): array
    {
        return array_map(fn (self $line): array => get_object_vars($line), $lines);
    }

    /**
     * @param  list<self>  $lines
     * @return list<self> those that failed
     */
    public static function wrong(array $lines): array
    {
        return array_values(array_filter($lines, fn (self $line): bool => $line->isFailed()));
    }

    public function isFailed(): bool
    {
        return $this->result === self::FAILED;
    }

    public function isNote(): bool
    {
        return $this->result === self::NOTE;
    }

    /** With its result, as a terminal tells it. */
    public function told(): string
    {
        return "$this->result: $this->check: $this->detail";
    }

    public function words(): string
    {
        return "$this->check: $this->detail";
    }
}
