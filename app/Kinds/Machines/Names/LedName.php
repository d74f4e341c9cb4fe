<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Names;

use Kaiseki\Core\Names\Addresses;

/** A name that was led elsewhere, and what it led to before. */
final readonly class LedName
{
    public function __construct(public string $name, public Addresses $from, public Addresses $to)
    {
    }

    /** "planner.example leads to 192.0.2.7; who asked before may go to 192.0.2.1 for 300 s still" */
    public function words(): string
    {
        $before = $this->from->all === [] ? '' : "; who asked before may go to {$this->from->words()} for {$this->from->ttl} s still";

        return "{$this->name} leads to {$this->to->words()}$before";
    }

    /** @return array{name: string, from: array<string, mixed>, to: array<string, mixed>} */
    public function toArray(): array
    {
        return ['name' => $this->name, 'from' => $this->from->toArray(), 'to' => $this->to->toArray()];
    }

    /** @param  array<mixed>  $kept */
    public static function fromArray(array $kept): self
    {
        return new self((string) $kept['name'], Addresses::fromArray((array) $kept['from']), Addresses::fromArray((array) $kept['to']));
    }
}
