<?php

declare(strict_types=1);

namespace App\Kinds\Items\Catalog;

use Carbon\CarbonImmutable;
use Kaiseki\Core\Mail\MaildirName;
use Kaiseki\Core\Mail\MailLayout;

/** That an item lay in a folder with some flags, from one point until another. */
final readonly class ItemSpan
{
    public function __construct(
        public int $item,
        public string $mailbox,
        public string $folder,
        /** Of the file that it stands in. */
        public string $name,
        public int $history,
        /** Microseconds since 1970, as in versions; the second exclusive, and PHP_INT_MAX while it is still there. */
        public int $first,
        public int $until,
        /** Seconds since 1970; null where the file says it for each of its messages. */
        public ?int $receivedAt,
        /** Of the file. */
        public string $digest,
        public int $size,
        public int $path,
        /** Whether it ended because its folder is left out of the sets from then on. */
        public bool $isLeftOut = false,
    ) {
    }

    public function isOpen(): bool
    {
        return $this->until === PHP_INT_MAX;
    }

    public function begins(): CarbonImmutable
    {
        return CarbonImmutable::createFromTimestampUTC(intdiv($this->first, 1_000_000));
    }

    /** The first point without it; means nothing while it is still there. */
    public function ends(): CarbonImmutable
    {
        return CarbonImmutable::createFromTimestampUTC(intdiv($this->until, 1_000_000));
    }

    public function isAt(int $history, int $instant): bool
    {
        return $this->history === $history && $this->first <= $instant && $this->until > $instant;
    }

    public function isOfDeletedThings(): bool
    {
        return MailLayout::isOfDeletedThings($this->folder);
    }

    /** Letters of MaildirName::FLAGS. */
    public function flags(): string
    {
        return MaildirName::of($this->name)->flags;
    }
}
