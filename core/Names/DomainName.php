<?php

declare(strict_types=1);

namespace Kaiseki\Core\Names;

/** The name of a host in the domain name system, in lower case and without the dot at its end (RFC 1123, section 2.1; RFC 1035, 2.3.4). */
final readonly class DomainName
{
    private function __construct(public string $name)
    {
    }

    /** @throws NameFailure if it is none */
    public static function of(string $said): self
    {
        $name = strtolower((string) preg_replace('/\.$/D', '', $said));
        $label = '[a-z0-9](?:[a-z0-9-]{0,61}[a-z0-9])?';
        $isAddress = ctype_digit(str_replace('.', '', $name));
        $isName = ! $isAddress && strlen($name) <= 253 && preg_match("/^$label(?:\\.$label)*$/D", $name) === 1;

        return $isName ? new self($name) : throw NameFailure::because(
            '"'.mb_scrub(mb_strcut($said, 0, 100)).'" is no name of a host: letters, digits and dashes, with dots between',
        );
    }

    public function isIn(self $zone): bool
    {
        return $this->name === $zone->name || str_ends_with($this->name, ".{$zone->name}");
    }
}
