<?php

declare(strict_types=1);

namespace App\Kinds\Items\Server;

use App\Kinds\Items\Order\ItemsOrder;
use App\Kinds\Touched;
use App\Kinds\TouchedPlace;
use App\Models\Duty;
use App\Trees\Run\TouchedFolder;

/** Where an order of items writes to. */
final class TouchedMailboxes
{
    public static function by(ItemsOrder $order): Touched
    {
        if ($order->send !== '') {
            return Touched::nothing();
        }
        if (! $order->isToServer()) {
            return new Touched([TouchedFolder::of(null, $order->target, false)], $order->isForTheLaw() ? Duty::Law : null);
        }
        $server = MailServer::query()->where('name', $order->server)->first();

        return $server === null ? Touched::nothing() : new Touched([
            new TouchedPlace('that mail server', $order->replaces(), $server->originals(), $server, true),
        ]);
    }
}
