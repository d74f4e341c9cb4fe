<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Standing;

use App\Kinds\Machines\Order\PlacementOrder;

/** A machine that stands is to be settled. */
final readonly class SettleOrder extends StandingOrder
{
    /**
     * @param  int|null  $limit  megabytes (10^6) a second at most; changed while it is at work
     * @param  array<string, string>  $storages  disk => another storage than the one it lies on, to which it comes instead
     */
    public function __construct(
        int $stands,
        string $on,
        string $machine,
        string $sentence,
        public ?int $limit = null,
        public array $storages = [],
    ) {
        parent::__construct($stands, $on, $machine, $sentence);
    }

    public static function way(): string
    {
        return 'settle';
    }

    /** @param  array<string, string>  $storages */
    public static function of(Standing $standing, ?int $limit, array $storages): self
    {
        $order = PlacementOrder::fromArray($standing->run->plan);
        $slowly = $limit === null ? '' : ", no faster than $limit MB/s";
        $elsewhere = '';
        foreach ($storages as $disk => $storage) {
            $elsewhere .= ", and all of its disk $disk to $storage";
        }
        $sentence = "Bring what {$standing->machine} at {$order->on} still reads from its sets to its own storage$elsewhere, ".
            "while it runs$slowly; then call it {$order->machine}.";

        return new self($standing->run_id, $order->on, $order->machine, $sentence, $limit, $storages);
    }

    /** @param  array<string, mixed>  $kept */
    public static function fromArray(array $kept): self
    {
        $limit = isset($kept['limit']) ? (int) $kept['limit'] : null;

        return new self(
            (int) $kept['stands'],
            (string) $kept['on'],
            (string) $kept['machine'],
            (string) $kept['sentence'],
            $limit,
            array_map(strval(...), (array) ($kept['storages'] ?? [])),
        );
    }
}
