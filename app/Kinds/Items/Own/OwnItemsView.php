<?php

declare(strict_types=1);

namespace App\Kinds\Items\Own;

use App\Kinds\Items\Catalog\FoundItem;
use App\Kinds\Items\Catalog\ItemFinder;
use App\Kinds\Items\Catalog\ItemWords;
use App\Kinds\Items\Page\ItemLife;
use App\Kinds\Items\Page\ItemLine;
use App\Kinds\Items\Page\ItemPage;
use App\Kinds\Items\Page\ItemsWhatView;
use App\Kinds\Items\Page\OpenedItem;
use App\Kinds\Items\Page\ShowsItems;
use App\Models\BackupSet;
use App\Models\User;
use App\Sets\Points;
use Illuminate\Http\Request;
use InvalidArgumentException;
use Kaiseki\Core\Chain\Demands;
use Kaiseki\Core\Instant;
use Kaiseki\Core\Mail\ItemQuery;

/** What was in a mailbox of a person, as they see it themselves: what is gone from it, what they look for, and the item that is opened. */
final class OwnItemsView implements ShowsItems
{
    /** What is listed while nothing is looked for. */
    private const GONE = 'is:gone';

    /** Of so many it is told which went last; who misses something older looks for it. */
    private const GONE_AT_MOST = 5_000;

    public readonly string $query;

    public readonly int $page;

    public readonly string $opened;

    /** Why the line means nothing; null if it does. */
    public readonly ?string $problem;

    public readonly Points $points;

    /** The newest that can be used; null if there is none. */
    public readonly ?BackupSet $point;

    /** Which day of an appointment that is opened; '' for none in particular. */
    public readonly string $day;

    private readonly ItemQuery $asked;

    /** @param  list<OwnMailbox>  $all  of the person */
    public function __construct(
        public readonly User $user,
        public readonly OwnMailbox $box,
        public readonly array $all,
        Request $http,
    ) {
        $text = fn (string $name, int $most): string => mb_substr($http->string($name)->value(), 0, $most);
        $this->query = trim($text('q', ItemQuery::LONGEST));
        $this->page = max(0, min(10_000, $http->integer('page')));
        $this->opened = $text('item', 64);
        $this->day = $text('day', 16);
        $this->points = new Points($box->workload);
        $found = $this->points->find(Instant::of(now()->toImmutable()), Demands::none())->set;
        $this->point = $found === null ? null : $this->points->modelOf($found);
        $problem = null;
        try {
            $asked = ItemQuery::parse($this->query === '' ? self::GONE : $this->query, $box->workload->zone);
        } catch (InvalidArgumentException $wrong) {
            [$asked, $problem] = [ItemQuery::parse(self::GONE), $wrong->getMessage()];
        }
        [$this->asked, $this->problem] = [$asked, $problem];
    }

    public function items(): ItemPage
    {
        if ($this->problem !== null || $this->point === null) {
            return new ItemPage([], false);
        }
        $most = ItemsWhatView::PAGE;
        $found = $this->found($most + 1, $this->page * $most);
        $changed = ItemFinder::changed($this->box->workload, $found);
        $lines = array_map(fn (FoundItem $item): ItemLine => ItemLine::of(
            $item,
            $item->lastSpan(),
            $this->user->zone,
            $this->box->workload->zone,
            isset($changed[$item->thread]),
        ), $found);

        return new ItemPage(array_slice($lines, 0, $most), count($lines) > $most);
    }

    /** @return list<FoundItem> what is looked for, the newest first; else what is gone, the last to go first */
    private function found(int $most, int $skip): array
    {
        $find = fn (int $most, int $skip): array => ItemFinder::find(
            $this->box->workload,
            $this->asked,
            null,
            $most,
            $skip,
            $this->box->name,
        );
        if ($this->query !== '') {
            return $find($most, $skip);
        }
        $gone = $find(self::GONE_AT_MOST, 0);
        usort($gone, fn (FoundItem $a, FoundItem $b): int => [$b->until(), $b->id] <=> [$a->until(), $a->id]);

        return array_slice($gone, $skip, $most);
    }

    public function opened(): ?OpenedItem
    {
        return $this->opened === ''
            ? null
            : OpenedItem::of($this->points, $this->opened, $this->point, $this->day, $this->user->zone, $this->box->name);
    }

    /** How many items still wait for their words to be looked at. */
    public function waiting(): int
    {
        return ItemWords::waiting($this->box->workload);
    }

    public function zone(): string
    {
        return $this->user->zone;
    }

    public function home(): string
    {
        return $this->box->workload->zone;
    }

    public function url(string ...$changes): string
    {
        $said = $changes + [
            'mailbox' => $this->box->name, 'q' => $this->query, 'page' => $this->page === 0 ? '' : (string) $this->page,
        ];

        return "{$this->address()}?".http_build_query(array_filter($said, fn (string $value): bool => $value !== ''));
    }

    public function itemUrl(FoundItem $item): string
    {
        return "{$this->address()}/{$item->key()}";
    }

    public function address(): string
    {
        return "/own/{$this->box->workload->id}";
    }

    public function pickView(): string
    {
        return 'kinds.items.own.take';
    }

    public function dayView(): string
    {
        return 'kinds.items.own.take-day';
    }

    public function life(FoundItem $item): ?ItemLife
    {
        return $this->point === null
            ? null
            : ItemLife::of($item, $this->points, $this->point->history_id, $this->point->instant);
    }
}
