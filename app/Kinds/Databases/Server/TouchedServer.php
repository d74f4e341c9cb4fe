<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Server;

use App\Kinds\Databases\Order\DatabaseOrder;
use App\Kinds\Touched;
use App\Kinds\TouchedPlace;

/** The server of an order as a place that it writes to. */
final class TouchedServer
{
    public static function by(DatabaseOrder $order): Touched
    {
        $server = DatabaseServer::query()->where('name', $order->server)->first();

        return $server === null ? Touched::nothing() : new Touched([self::place($server, $order->isInPlace() || $order->isByRows())]);
    }

    /** Whoever owns one of its databases may write to it: what is in which schema nobody has said. */
    public static function place(DatabaseServer $server, bool $replaces): TouchedPlace
    {
        return new TouchedPlace('that server', $replaces, $server->originals(), $server, true);
    }
}
