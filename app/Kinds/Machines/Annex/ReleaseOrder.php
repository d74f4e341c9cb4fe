<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Annex;

use App\Kinds\Machines\Order\PlacementOrder;
use App\Kinds\Machines\Standing\Standing;
use App\Kinds\Machines\Standing\StandingOrder;

/** A machine in an annex is to be released: put on the networks that it was stood up for. */
final readonly class ReleaseOrder extends StandingOrder
{
    /** @param  bool  $isAside  whether a machine that has its name stands there, and is ended and set aside */
    public function __construct(int $stands, string $on, string $machine, string $sentence, public bool $isAside = false)
    {
        parent::__construct($stands, $on, $machine, $sentence);
    }

    public static function way(): string
    {
        return 'release';
    }

    public static function of(Standing $standing, bool $isAside): self
    {
        $order = PlacementOrder::fromArray($standing->run->plan);
        $networks = implode(', ', $order->settings->networks()) ?: 'no network';
        $sentence = ($isAside ? "End {$order->machine} at {$order->on} if it runs, and set it aside; then shut" : 'Shut').
            " {$standing->machine} down, put it on $networks in place of its annex, start it again, and ask it who it is.";

        return new self($standing->run_id, $order->on, $order->machine, $sentence, $isAside);
    }

    /** The machine that stands there is touched, as the order that stood this one up would have touched it. */
    public function touched(): PlacementOrder
    {
        return $this->placed()->with(isAside: $this->isAside);
    }

    /** @param  array<string, mixed>  $kept */
    public static function fromArray(array $kept): self
    {
        return new self(
            (int) $kept['stands'],
            (string) $kept['on'],
            (string) $kept['machine'],
            (string) $kept['sentence'],
            (bool) ($kept['isAside'] ?? false),
        );
    }
}
