<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Standing;

use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Order\PlacementOrder;
use App\Models\Run;

/** A machine that stands is to be settled: kept with the run that does it. */
final readonly class SettleOrder
{
    public const WAY = 'settle';

    /**
     * @param  int  $stands  the run that stood it up
     * @param  string  $on  name of the hypervisor
     * @param  string  $machine  what it will be called there
     * @param  int|null  $limit  megabytes (10^6) a second at most; changed while it is at work
     */
    public function __construct(
        public int $stands,
        public string $on,
        public string $machine,
        public ?int $limit,
        public string $sentence,
    ) {
    }

    public static function of(Standing $standing, ?int $limit): self
    {
        $order = PlacementOrder::fromArray($standing->run->plan);
        $slowly = $limit === null ? '' : ", no faster than $limit MB/s";

        return new self($standing->run_id, $order->on, $order->machine, $limit, sprintf(
            'Bring what %s at %s still reads from its sets to its own storage while it runs%s; then call it %s.',
            $standing->machine,
            $order->on,
            $slowly,
            $order->machine,
        ));
    }

    /** @throws CannotBring if it does not stand any more */
    public function standing(): Standing
    {
        return Standing::query()->where('run_id', $this->stands)->first()
            ?? throw CannotBring::because("Run {$this->stands} stood no machine up.");
    }

    /** How the machine was ordered when it was stood up. */
    public function placed(): PlacementOrder
    {
        return PlacementOrder::fromArray(Run::query()->findOrFail($this->stands)->plan);
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return ['way' => self::WAY] + get_object_vars($this);
    }

    /** @param  array<string, mixed>  $kept */
    public static function fromArray(array $kept): self
    {
        return new self(
            (int) $kept['stands'],
            (string) $kept['on'],
            (string) $kept['machine'],
            isset($kept['limit']) ? (int) $kept['limit'] : null,
            (string) $kept['sentence'],
        );
    }
}
