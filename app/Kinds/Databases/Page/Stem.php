<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Page;

use App\Kinds\Databases\Order\LoggedTransaction;
use Kaiseki\Core\Database\Suspicion;

/** A transaction, or the heaviest of several, drawn above and below the ground. */
final readonly class Stem
{
    /**
     * @param  float  $up  for rows that came or changed
     * @param  float  $down  for rows that went
     * @param  int  $standsFor  how many lie so near that one is drawn for them
     * @param  bool  $isLost  whether it lies behind the stop
     */
    public function __construct(
        public LoggedTransaction $transaction,
        public float $x,
        public float $up,
        public float $down,
        public int $standsFor,
        public ?Suspicion $suspicion,
        public bool $isLost,
    ) {
    }
}
