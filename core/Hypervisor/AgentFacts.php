<?php

declare(strict_types=1);

namespace Kaiseki\Core\Hypervisor;

/** What the agent in a machine that runs tells of itself and of the machine: no more than what that machine says. */
final readonly class AgentFacts
{
    /** Characters of each. */
    private const LONGEST = 200;

    public function __construct(public string $version, public string $host, public string $system)
    {
    }

    /** @return array<string, string> */
    public function toArray(): array
    {
        return ['version' => $this->version, 'host' => $this->host, 'system' => $this->system];
    }

    /** @param  array<mixed>  $told */
    public static function fromArray(array $told): self
    {
        $short = fn (string $key): string => mb_substr(mb_scrub(Told::text($told, $key)), 0, self::LONGEST);

        return new self($short('version'), $short('host'), $short('system'));
    }
}
