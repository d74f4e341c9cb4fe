<?php

declare(strict_types=1);

namespace App\Kinds\Items\Order;

/**
 * What happens with a message that lies in the folder already. Nothing is ever written over: what has another content is another
 * message.
 */
enum ItemConflict: string
{
    case MissingOnly = 'missing-only';
    case Beside = 'beside';

    public function words(): string
    {
        return match ($this) {
            self::MissingOnly => 'leaving those that lie there already',
            self::Beside => 'also those that lie there already',
        };
    }
}
