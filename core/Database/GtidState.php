<?php

declare(strict_types=1);

namespace Kaiseki\Core\Database;

use InvalidArgumentException;

/**
 * The last transaction of each replication domain, as MariaDB writes it: "0-1-42,1-1-7" (MariaDB knowledge base, "Global Transaction
 * ID").
 */
final readonly class GtidState
{
    /** @param  array<int, array{int, int}>  $domains  domain => server, sequence number */
    public function __construct(public array $domains = [])
    {
    }

    /** @throws InvalidArgumentException */
    public static function parse(string $text): self
    {
        $domains = [];
        foreach (array_filter(array_map(trim(...), explode(',', $text)), fn (string $part): bool => $part !== '') as $part) {
            [$domain, $server, $sequence] = self::one($part);
            $domains[$domain] = [$server, $sequence];
        }
        ksort($domains);

        return new self($domains);
    }

    /**
     * @return array{int, int, int} domain, server, sequence number
     *
     * @throws InvalidArgumentException
     */
    public static function one(string $text): array
    {
        if (preg_match('/^(\d{1,10})-(\d{1,10})-(\d{1,19})$/D', trim($text), $m) !== 1) {
            throw new InvalidArgumentException(
                "\"$text\" is not the name of a transaction. Write it as DOMAIN-SERVER-NUMBER, such as 0-1-42.",
            );
        }

        return [(int) $m[1], (int) $m[2], (int) $m[3]];
    }

    public function with(int $domain, int $server, int $sequence): self
    {
        $domains = [$domain => [$server, $sequence]] + $this->domains;
        ksort($domains);

        return new self($domains);
    }

    /** Whether the two name the same state, whichever servers wrote it. */
    public function equals(self $other): bool
    {
        return array_map(fn (array $at): int => $at[1], $this->domains) === array_map(fn (array $at): int => $at[1], $other->domains);
    }

    public function text(): string
    {
        return implode(
            ',',
            array_map(fn (int $domain, array $at): string => "$domain-{$at[0]}-{$at[1]}", array_keys($this->domains), $this->domains),
        );
    }
}
