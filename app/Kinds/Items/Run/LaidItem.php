<?php

declare(strict_types=1);

namespace App\Kinds\Items\Run;

/** A message that a run laid into a folder of a mail server. */
final readonly class LaidItem
{
    /** @param  list<string>  $flags  as it was laid */
    public function __construct(
        public string $key,
        public string $mailbox,
        public string $folder,
        public int $validity,
        public int $uid,
        public array $flags,
    ) {
    }
}
