<?php

declare(strict_types=1);

namespace App\Kinds\Items\Order;

/** As what items come into a folder of files. */
enum ItemForm: string
{
    case Eml = 'eml';
    case Mbox = 'mbox';
    case Maildir = 'maildir';
    case Zip = 'zip';
    /** For the law: originals, a list of them, manifests and a seal (BagIt, RFC 8493). */
    case Bag = 'bag';

    public function words(): string
    {
        return match ($this) {
            self::Eml => 'one file for each (.eml, .ics, .vcf)',
            self::Mbox => 'one file for each folder (mbox, .ics, .vcf)',
            self::Maildir => 'Maildir, with flags; appointments and contacts one by one',
            self::Zip => 'one zip with a file for each',
            self::Bag => 'a sealed bag for the law (BagIt)',
        };
    }

    /** As it is named on the command line, where calendars and contacts go by the name of their own file. */
    public static function named(string $name): ?self
    {
        return self::tryFrom($name) ?? (in_array($name, ['ics', 'vcf'], true) ? self::Mbox : null);
    }
}
