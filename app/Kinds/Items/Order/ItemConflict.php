<?php

declare(strict_types=1);

namespace App\Kinds\Items\Order;

/**
 * What happens where something is there already. A message is never written over: what has another content is another message. Of an
 * appointment or a contact another state may be there.
 */
enum ItemConflict: string
{
    case MissingOnly = 'missing-only';
    case Replace = 'replace';
    case Beside = 'beside';

    public function words(): string
    {
        return match ($this) {
            self::MissingOnly => 'leaving what is there already',
            self::Replace => 'in place of what says something else there now',
            self::Beside => 'beside what is there already',
        };
    }
}
