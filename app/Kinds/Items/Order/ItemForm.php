<?php

declare(strict_types=1);

namespace App\Kinds\Items\Order;

/** As what items come into a folder of files. */
enum ItemForm: string
{
    case Eml = 'eml';
    case Mbox = 'mbox';
    case Maildir = 'maildir';

    public function words(): string
    {
        return match ($this) {
            self::Eml => 'one file for each message (.eml)',
            self::Mbox => 'one mbox for each folder',
            self::Maildir => 'Maildir, with flags',
        };
    }
}
