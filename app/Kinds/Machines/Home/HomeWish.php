<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Home;

/** What somebody said of how a machine goes home. */
final readonly class HomeWish
{
    /**
     * @param  string  $on  the hypervisor that it goes to; '' for that of its original
     * @param  string  $storage  there for its disks; '' for where they were, else where there is most room
     * @param  string  $network  there for its cards; '' for those that they were on
     * @param  bool  $setsAside  whether what has its name there is set aside
     * @param  string  $address  under which it is reached there, for the names that were led away; '' for the one they led to before
     */
    public function __construct(
        public string $on = '',
        public string $storage = '',
        public string $network = '',
        public bool $setsAside = false,
        public string $address = '',
    ) {
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return get_object_vars($this);
    }

    /** @param  array<mixed>  $kept */
    public static function fromArray(array $kept): self
    {
        $said = fn (string $what): string => (string) ($kept[$what] ?? '');

        return new self($said('on'), $said('storage'), $said('network'), (bool) ($kept['setsAside'] ?? false), $said('address'));
    }
}
