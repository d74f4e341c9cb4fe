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

    /** What comes of it, as a person is told who chooses. */
    public function means(): string
    {
        return match ($this) {
            self::MissingOnly => 'A message is told by its content, an appointment or a contact by its UID: of those with another state '.
                'now nothing is touched.',
            self::Replace => 'An appointment or a contact becomes what it was. What it says now is set aside, and comes again when the '.
                'run is put back.',
            self::Beside => 'Each picked message comes once, whatever lies there; another state of an appointment or a contact comes as '.
                'one of its own.',
        };
    }

    public function words(): string
    {
        return match ($this) {
            self::MissingOnly => 'leaving what is there already',
            self::Replace => 'in place of what says something else there now',
            self::Beside => 'beside what is there already',
        };
    }
}
