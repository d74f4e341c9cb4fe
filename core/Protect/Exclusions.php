<?php

declare(strict_types=1);

namespace Kaiseki\Core\Protect;

use InvalidArgumentException;

/** All that the sets of a source leave out. */
final readonly class Exclusions
{
    /** More are no rule any more that somebody knows. */
    public const MOST = 100;

    /** @param  list<Exclusion>  $all */
    public function __construct(public array $all = [])
    {
        if (count($all) > self::MOST) {
            throw new InvalidArgumentException('At most '.self::MOST.' rules say what is left out.');
        }
    }

    /** What a record says, which comes from outside: what is no rule there says nothing. */
    public static function ofRecord(mixed $said): self
    {
        $all = [];
        foreach (is_array($said) ? array_slice($said, 0, self::MOST) : [] as $one) {
            $pattern = is_array($one) ? $one['pattern'] ?? null : null;
            $because = is_array($one) ? $one['because'] ?? null : null;
            if (is_string($pattern) && is_string($because)) {
                try {
                    $all[] = Exclusion::of($pattern, $because);
                } catch (InvalidArgumentException) {
                    continue;
                }
            }
        }

        return new self($all);
    }

    /**
     * With one more, in place of that of the same pattern.
     *
     * @throws InvalidArgumentException if there would be too many
     */
    public function with(Exclusion $one): self
    {
        return new self([...array_values(array_filter($this->all, fn (Exclusion $of): bool => $of->pattern !== $one->pattern)), $one]);
    }

    /** The one by which something is left out, where its folder is not; null if none does. */
    public function at(string $path): ?Exclusion
    {
        foreach ($this->all as $one) {
            if ($one->is($path)) {
                return $one;
            }
        }

        return null;
    }

    /** The one by which something, or a folder that it is in, is left out. */
    public function above(string $path): ?Exclusion
    {
        for ($end = strpos($path, '/'); $end !== false; $end = strpos($path, '/', $end + 1)) {
            $one = $this->at(substr($path, 0, $end));
            if ($one !== null) {
                return $one;
            }
        }

        return $this->at($path);
    }

    /** @return list<array{pattern: string, because: string}> */
    public function toArray(): array
    {
        return array_map(fn (Exclusion $one): array => $one->toArray(), $this->all);
    }

    /** '' for none. */
    public function words(): string
    {
        return implode(', ', array_map(fn (Exclusion $one): string => $one->words(), $this->all));
    }
}
