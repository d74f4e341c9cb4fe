<?php

declare(strict_types=1);

namespace Kaiseki\Core\Names;

/** What a name leads to: its A and AAAA records. */
final readonly class Addresses
{
    /** Seconds for which others may keep what they were told of a name that led nowhere before. */
    private const USUAL_TTL = 300;

    /**
     * @param  list<string>  $all  IPv4 and IPv6 addresses as inet_ntop(3) writes them, sorted; none if it leads nowhere
     * @param  int  $ttl  seconds for which others may keep them
     */
    private function __construct(public array $all, public int $ttl)
    {
    }

    /**
     * @param  iterable<string>  $said
     *
     * @throws NameFailure if one is no address
     */
    public static function of(iterable $said, int $ttl = self::USUAL_TTL): self
    {
        $all = [];
        foreach ($said as $one) {
            $bytes = filter_var($one, FILTER_VALIDATE_IP) === false ? false : inet_pton($one);
            $all[] = $bytes === false
                ? throw NameFailure::because('"'.mb_scrub(mb_strcut($one, 0, 100)).'" is no address: say an IPv4 or an IPv6 address')
                : (string) inet_ntop($bytes);
        }
        sort($all);

        return new self(array_values(array_unique($all)), max(0, min($ttl, 0x7FFFFFFF)));
    }

    public function with(string $address): self
    {
        return self::of([$address], $this->ttl);
    }

    public function equals(self $other): bool
    {
        return $this->all === $other->all;
    }

    public function words(): string
    {
        return $this->all === [] ? 'nowhere' : implode(', ', $this->all);
    }

    /** @return array{addresses: list<string>, ttl: int} */
    public function toArray(): array
    {
        return ['addresses' => $this->all, 'ttl' => $this->ttl];
    }

    /**
     * @param  array<mixed>  $kept
     *
     * @throws NameFailure
     */
    public static function fromArray(array $kept): self
    {
        return self::of(array_map(strval(...), (array) ($kept['addresses'] ?? [])), (int) ($kept['ttl'] ?? self::USUAL_TTL));
    }
}
