<?php

declare(strict_types=1);

namespace App\Kinds\Items\Catalog;

/** A folder of a mailbox at a point, and how much lies in it. */
final class MailFolderCount
{
    public function __construct(public string $mailbox, public string $folder, public int $items = 0, public int $bytes = 0)
    {
    }
}
