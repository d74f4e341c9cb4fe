<?php

declare(strict_types=1);

namespace App\Kinds\Items\Page;

use App\Kinds\Items\Catalog\FoundItem;
use App\Kinds\Items\Catalog\ItemFinder;
use App\Kinds\Items\Catalog\ItemReader;
use App\Kinds\Items\Catalog\ItemSpan;
use App\Models\BackupSet;
use App\Sets\Points;
use Kaiseki\Core\Mail\Message;

/** One message that somebody opened: as its reader saw it, and where it lay when. */
final readonly class OpenedItem
{
    private const TEXT = 200_000;

    private const MOST_IN_THREAD = 50;

    /** @param  list<FoundItem>  $thread  the others of its thread, the oldest first */
    private function __construct(
        public FoundItem $item,
        public ?Message $message,
        public array $thread,
        private ?BackupSet $point,
    ) {
    }

    /** Null if there is no such item. */
    public static function of(Points $points, string $key, ?BackupSet $point): ?self
    {
        $item = ItemFinder::named($points->workload, $key);
        if ($item === null) {
            return null;
        }
        $bytes = (new ItemReader($points))->one($item->id);
        $thread = ItemFinder::thread($points->workload, $item->thread, self::MOST_IN_THREAD);
        $others = array_values(array_filter($thread, fn (FoundItem $one): bool => $one->id !== $item->id));

        return new self($item, $bytes === null ? null : Message::of($bytes), $others, $point);
    }

    public function hasHtml(): bool
    {
        return $this->message !== null && trim($this->message->html()) !== '';
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
