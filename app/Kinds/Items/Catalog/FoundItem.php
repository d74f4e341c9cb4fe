<?php

declare(strict_types=1);

namespace App\Kinds\Items\Catalog;

use Carbon\CarbonImmutable;
use Closure;
use Kaiseki\Core\Mail\ItemSort;
use stdClass;

/** An item, with where it lay when. */
final readonly class FoundItem
{
    /** @param  list<ItemSpan>  $spans  oldest first */
    public function __construct(
        public int $id,
        /** 32 bytes. */
        public string $identity,
        public ItemSort $sort,
        /** Or the UID of an appointment or a contact. */
        public string $messageId,
        public int $thread,
        public string $subject,
        public string $sender,
        public string $recipients,
        /** Seconds since 1970; null where it does not say. Of an appointment when it begins, the first time. */
        public ?int $sentAt,
        public int $receivedAt,
        public int $size,
        public int $attachments,
        public ItemDetails $details,
        public array $spans,
    ) {
    }

    /** @param  list<ItemSpan>  $spans */
    public static function of(stdClass $row, array $spans): self
    {
        return new self(
            (int) $row->id,
            $row->identity,
            ItemSort::from($row->kind),
            $row->message_id,
            (int) $row->thread,
            $row->subject,
            $row->sender,
            $row->recipients,
            $row->sent_at === null ? null : (int) $row->sent_at,
            (int) $row->received_at,
            (int) $row->size,
            (int) $row->attachments,
            ItemDetails::parse($row->details),
            $spans,
        );
    }

    /** What a person calls it. */
    public function title(): string
    {
        return match (true) {
            $this->subject !== '' => $this->subject,
            $this->sort === ItemSort::Contact => 'without a name',
            default => 'without a subject',
        };
    }

    /** By which a person names it, the same wherever its sets are cataloged. */
    public function key(): string
    {
        return substr(bin2hex($this->identity), 0, 16);
    }

    /** As far as it lay in one mailbox: what lies in others too is there another matter. */
    public function in(string $mailbox): self
    {
        return $this->asFarAs(fn (ItemSpan $span): bool => $span->mailbox === $mailbox);
    }

    /** @param  Closure(ItemSpan): bool  $counts */
    private function asFarAs(Closure $counts): self
    {
        return new self(...['spans' => array_values(array_filter($this->spans, $counts))] + get_object_vars($this));
    }

    /** Where it lay last, before it was thrown away; null if it lay nowhere that is known. */
    public function lastSpan(): ?ItemSpan
    {
        $spans = array_filter($this->spans, fn (ItemSpan $span): bool => ! $span->isOfDeletedThings()) ?: $this->spans;

        return $spans === [] ? null : end($spans);
    }

    /** @return list<ItemSpan> */
    public function spansAt(int $history, int $instant): array
    {
        return array_values(array_filter($this->spans, fn (ItemSpan $span): bool => $span->isAt($history, $instant)));
    }

    /** Whether a point has it nowhere, and it was not left out of that on purpose. */
    public function isGoneAt(int $history, int $instant): bool
    {
        $before = $this->asFarAs(fn (ItemSpan $span): bool => $span->history === $history && $span->until <= $instant);

        return $this->spansAt($history, $instant) === [] && ! $before->isLeftOut();
    }

    /** When it was first seen, microseconds since 1970. */
    public function first(): int
    {
        return min(array_map(fn (ItemSpan $span): int => $span->first, $this->spans) ?: [0]);
    }

    /** At which point it was first. */
    public function firstAt(): CarbonImmutable
    {
        return CarbonImmutable::createFromTimestampUTC(intdiv($this->first(), 1_000_000));
    }

    public function isThere(): bool
    {
        return $this->until() === PHP_INT_MAX;
    }

    /** Whether the newest point has it nowhere any more, and it was not left out of that on purpose. */
    public function isGone(): bool
    {
        return ! $this->isThere() && ! $this->isLeftOut();
    }

    /** Whether sets leave it out on purpose since it was seen last: it may lie there still. */
    public function isLeftOut(): bool
    {
        $until = $this->until();

        return array_filter($this->spans, fn (ItemSpan $span): bool => $span->isLeftOut && $span->until === $until) !== [];
    }

    /** The first point that has it nowhere any more; means nothing while it is there. */
    public function goneSince(): CarbonImmutable
    {
        return CarbonImmutable::createFromTimestampUTC(intdiv($this->until(), 1_000_000));
    }

    /** Until when it was seen; PHP_INT_MAX if it is still there. */
    public function until(): int
    {
        return max(array_map(fn (ItemSpan $span): int => $span->until, $this->spans) ?: [0]);
    }
}
