<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Standing;

use App\Kinds\Machines\Order\PlacementOrder;

/** A machine that stands is to be settled. */
final readonly class SettleOrder extends StandingOrder
{
    /** @param  int|null  $limit  megabytes (10^6) a second at most; changed while it is at work */
    public function __construct(int $stands, string $on, string $machine, string $sentence, public ?int $limit = null)
    {
        parent::__construct($stands, $on, $machine, $sentence);
    }

    public static function way(): string
    {
        return 'settle';
    }

    public static function of(Standing $standing, ?int $limit): self
    {
        $order = PlacementOrder::fromArray($standing->run->plan);
        $slowly = $limit === null ? '' : ", no faster than $limit MB/s";
        $sentence = "Bring what {$standing->machine} at {$order->on} still reads from its sets to its own storage while it runs$slowly; ".
            "then call it {$order->machine}.";

        return new self($standing->run_id, $order->on, $order->machine, $sentence, $limit);
    }

    /** @param  array<string, mixed>  $kept */
    public static function fromArray(array $kept): self
    {
        $limit = isset($kept['limit']) ? (int) $kept['limit'] : null;

        return new self((int) $kept['stands'], (string) $kept['on'], (string) $kept['machine'], (string) $kept['sentence'], $limit);
    }
}
