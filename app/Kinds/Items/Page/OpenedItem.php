<?php

declare(strict_types=1);

namespace App\Kinds\Items\Page;

use App\Kinds\Items\Catalog\FoundItem;
use App\Kinds\Items\Catalog\ItemFinder;
use App\Kinds\Items\Catalog\ItemReader;
use App\Kinds\Items\Catalog\ItemSpan;
use App\Models\BackupSet;
use App\Sets\Points;
use App\View\DrawnPicture;
use DateTimeZone;
use Kaiseki\Core\Mail\Contact\ContactCard;
use Kaiseki\Core\Mail\ItemSort;
use Kaiseki\Core\Mail\Message;

/** One item that somebody opened: as its reader saw it, and where it lay when. */
final readonly class OpenedItem
{
    private const TEXT = 200_000;

    private const MOST_IN_THREAD = 50;

    /**
     * @param  string|null  $bytes  null where no archive gives it
     * @param  list<FoundItem>  $thread  the others of its thread, or its other states, the oldest first
     */
    private function __construct(
        public FoundItem $item,
        public ?string $bytes,
        public ?Message $message,
        public ?AppointmentView $appointment,
        public ?ContactCard $contact,
        public ?ItemStates $states,
        public array $thread,
        private ?BackupSet $point,
    ) {
    }

    /**
     * Null if there is no such item.
     *
     * @param  string  $day  of an appointment, see AppointmentView
     * @param  string|null  $only  the mailbox outside of which nothing is seen
     */
    public static function of(Points $points, string $key, ?BackupSet $point, string $day, string $zone, ?string $only = null): ?self
    {
        $workload = $points->workload;
        $item = ItemFinder::named($workload, $key);
        $item = $only === null ? $item : $item?->in($only);
        if ($item === null || $item->spans === []) {
            return null;
        }
        $reader = new ItemReader($points);
        $bytes = $reader->one($item->id);
        $thread = ItemFinder::thread($workload, $item->thread, self::MOST_IN_THREAD, $only);
        $others = array_values(array_filter($thread, fn (FoundItem $one): bool => $one->id !== $item->id));
        $sort = $bytes === null ? null : $item->sort;

        return new self(
            $item,
            $bytes,
            $sort === ItemSort::Message ? Message::of((string) $bytes) : null,
            $sort?->isOfCalendar() === true ? AppointmentView::of($workload, $point, $item, (string) $bytes, $day, $zone) : null,
            $sort === ItemSort::Contact ? ContactCard::of((string) $bytes) : null,
            $sort?->isOfFields() === true
                ? ItemStates::of($item, (string) $bytes, $others, $reader, new DateTimeZone($workload->zone))
                : null,
            $others,
            $point,
        );
    }

    /** Which of the views shows it. */
    public function view(): string
    {
        return match (true) {
            $this->appointment !== null => 'appointment',
            $this->contact !== null => 'contact',
            default => 'message',
        };
    }

    /** The message as it looked; null of one that is text alone. */
    public function letter(): ?LetterPage
    {
        return $this->message !== null && trim($this->message->html()) !== '' ? LetterPage::of($this->message) : null;
    }

    /** The picture of a contact, drawn anew as PNG; null if it has none that can be drawn. */
    public function picture(): ?string
    {
        $picture = $this->contact?->picture() ?? '';

        return $picture === '' ? null : DrawnPicture::png($picture);
    }

    public function text(): string
    {
        return $this->message === null ? '' : mb_strcut($this->message->text(), 0, self::TEXT);
    }

    /** @return list<ItemSpan> the newest first, those that follow one another without a change in one */
    public function spans(): array
    {
        return array_reverse($this->item->spans);
    }

    public function isAtPoint(): bool
    {
        return $this->point !== null && $this->item->spansAt($this->point->history_id, $this->point->instant) !== [];
    }
}
