<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Server;

use App\Kinds\Databases\Intake\DatabaseProtection;
use App\Kinds\MakingOrder;
use App\Kinds\Source;
use App\Kinds\SourcePlace;
use App\Models\BackupSet;
use App\Models\Workload;
use Kaiseki\Core\Chain\Level;

/** The server that a database lives on. */
final readonly class DatabaseSource implements Source
{
    public function __construct(private Workload $workload)
    {
    }

    public function levels(): array
    {
        return ['log' => 'log', 'full' => 'full'];
    }

    public function makes(Level $level): bool
    {
        return $level->isFull() || $level->isLog();
    }

    public function usualTimes(): array
    {
        return ['30 1 * * 0=full', '10 * * * *=log'];
    }

    public function isKnown(): bool
    {
        return DatabaseServer::of($this->workload) !== null;
    }

    /** Whether it answers is found out when it is asked for something. */
    public function isGone(): bool
    {
        return false;
    }

    public function place(): ?SourcePlace
    {
        $server = DatabaseServer::of($this->workload);

        return $server === null ? null : new SourcePlace('It lives on the server', $server->name, " ({$server->host}:{$server->port})");
    }

    public function levelOfPresent(): string
    {
        return 'full';
    }

    public function make(MakingOrder $order): BackupSet
    {
        return (new DatabaseProtection($this->workload, $order->store))->make(
            $order->level,
            $order->newHistory,
            $order->before,
            $order->after,
            $order->limit,
        );
    }
}
