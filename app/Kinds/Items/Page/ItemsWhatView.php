<?php

declare(strict_types=1);

namespace App\Kinds\Items\Page;

use App\Kinds\Items\Catalog\FoundItem;
use App\Kinds\Items\Catalog\ItemFinder;
use App\Kinds\Items\Catalog\ItemSpan;
use App\Kinds\Items\Catalog\ItemWords;
use App\Kinds\Items\Catalog\MailboxTree;
use App\Kinds\Items\Catalog\MailFolderCount;
use App\Kinds\Items\Order\ChosenItem;
use App\Kinds\Items\Order\ItemSelection;
use App\Models\BackupSet;
use App\Models\Workload;
use App\Sets\LeftOut;
use Illuminate\Http\Request;
use InvalidArgumentException;
use Kaiseki\Core\Mail\ItemQuery;
use Kaiseki\Core\Mail\ItemSort;
use Kaiseki\Core\Protect\Exclusions;

/** The What picker: a line to look for, mailboxes and folders as they were, and the item that is opened. */
final class ItemsWhatView implements ShowsItems
{
    public const PAGE = 100;

    public readonly string $query;

    public readonly string $mailbox;

    public readonly string $folder;

    /** Whether points beside the one in hand are looked at too. */
    public readonly bool $everywhen;

    public readonly int $page;

    public readonly string $opened;

    /** Which day of an appointment that is opened; '' for none in particular. */
    public readonly string $day;

    /** Why the line means nothing; null if it does. */
    public readonly ?string $problem;

    private readonly ItemQuery $asked;

    private readonly ?BackupSet $point;

    private readonly Workload $workload;

    public function __construct(private readonly ItemsSheetView $view, Request $http)
    {
        $text = fn (string $name, int $most): string => mb_substr($http->string($name)->value(), 0, $most);
        $this->point = $view->sheet->point;
        $this->workload = $view->sheet->workload;
        $this->query = trim($text('q', ItemQuery::LONGEST));
        $this->mailbox = $text('mailbox', 300);
        $this->folder = $text('folder', 600);
        $this->everywhen = $http->boolean('ever');
        $this->page = max(0, min(10_000, $http->integer('page')));
        $this->opened = $text('item', 64);
        $this->day = $text('day', 16);
        $problem = null;
        try {
            $asked = ItemQuery::parse($this->query, $view->sheet->workload->zone);
        } catch (InvalidArgumentException $wrong) {
            [$asked, $problem] = [ItemQuery::parse(''), $wrong->getMessage()];
        }
        [$this->asked, $this->problem] = [$asked, $problem];
    }

    /** What the point leaves out on purpose. */
    public function leftOut(): Exclusions
    {
        return $this->point === null ? new Exclusions : LeftOut::ofSet($this->point);
    }

    public function zone(): string
    {
        return $this->view->frame->zone;
    }

    public function home(): string
    {
        return $this->workload->zone;
    }

    public function itemUrl(FoundItem $item): string
    {
        return "/requests/{$this->view->request->id}/items/{$item->key()}";
    }

    public function pickView(): string
    {
        return 'kinds.items.opened.pick';
    }

    public function dayView(): string
    {
        return 'kinds.items.opened.pick-day';
    }

    public function url(string ...$changes): string
    {
        $said = $changes + [
            'q' => $this->query, 'mailbox' => $this->mailbox, 'folder' => $this->folder, 'ever' => $this->everywhen ? '1' : '',
            'page' => $this->page === 0 ? '' : (string) $this->page,
        ];

        return $this->view->frame->url('what', '&'.http_build_query(array_filter($said, fn (string $value): bool => $value !== '')));
    }

    /** @return array<string, list<MailFolderCount>> mailbox => its folders */
    public function mailboxes(): array
    {
        $by = [];
        foreach ($this->point === null ? [] : MailboxTree::at($this->workload, $this->point) as $row) {
            $by[$row->mailbox][] = $row;
        }

        return $by;
    }

    /** What the requester says was lost, as a line to look for: words alone. */
    public function lost(): string
    {
        return trim((string) preg_replace('/[^\pL\pN.@ -]+/u', ' ', mb_substr((string) $this->view->request->lost, 0, 200)), ' -');
    }

    public function isSearch(): bool
    {
        return ! $this->asked->isEmpty();
    }

    /** How many items still wait for their words to be looked at. */
    public function waiting(): int
    {
        return ItemWords::waiting($this->workload);
    }

    /** The page of the list that is shown, with where each lay. */
    public function items(): ItemPage
    {
        [$zone, $home] = [$this->view->frame->zone, $this->workload->zone];
        $rows = $this->rows();
        $changed = $this->isSearch() ? ItemFinder::changed($this->workload, array_column($rows, 0)) : [];

        $lines = array_map(
            fn (array $row): ItemLine => ItemLine::of($row[0], $row[1], $zone, $home, isset($changed[$row[0]->thread])),
            $rows,
        );

        return new ItemPage(array_slice($lines, 0, self::PAGE), count($lines) > self::PAGE);
    }

    /** @return list<array{FoundItem, ItemSpan|null}> */
    private function rows(): array
    {
        if ($this->point === null) {
            return [];
        }
        if ($this->isSearch()) {
            return $this->found($this->point);
        }
        if ($this->folder === '') {
            return [];
        }
        $chosen = (new ItemSelection([], '', $this->mailbox, $this->folder))->at($this->workload, $this->point);
        $there = array_reverse(array_values(array_filter($chosen, fn (ChosenItem $one): bool => $one->span->folder === $this->folder)));
        usort($there, self::inOrder(...)); // stable: messages stay as they are, the newest first

        return array_map(
            fn (ChosenItem $one): array => [$one->item, $one->span],
            array_slice($there, $this->page * self::PAGE, self::PAGE + 1),
        );
    }

    /** Contacts by name, appointments by when they begin, the latest first. */
    private static function inOrder(ChosenItem $a, ChosenItem $b): int
    {
        return match (true) {
            $a->item->sort !== $b->item->sort => 0,
            $a->item->sort === ItemSort::Contact => strcoll(mb_strtolower($a->item->subject), mb_strtolower($b->item->subject)),
            $a->item->sort->isOfCalendar() => $b->item->sentAt <=> $a->item->sentAt,
            default => 0,
        };
    }

    /** @return list<array{FoundItem, ItemSpan|null}> */
    private function found(BackupSet $point): array
    {
        $at = $this->everywhen ? null : $point;
        $found = ItemFinder::find($this->workload, $this->asked, $at, self::PAGE + 1, $this->page * self::PAGE);

        return array_map(function (FoundItem $item) use ($point): array {
            $spans = $item->spansAt($point->history_id, $point->instant) ?: $item->spans;

            return [$item, $spans === [] ? null : $spans[count($spans) - 1]];
        }, $found);
    }

    public function isPicked(FoundItem $item): bool
    {
        return in_array($item->key(), $this->view->sheet->selection->items, true);
    }

    public function isDayPicked(FoundItem $item, string $day): bool
    {
        return in_array("{$item->key()}@$day", $this->view->sheet->selection->items, true);
    }

    public function opened(): ?OpenedItem
    {
        return $this->opened === ''
            ? null
            : OpenedItem::of($this->view->sheet->points, $this->opened, $this->point, $this->day, $this->view->frame->zone);
    }

    public function life(FoundItem $item): ?ItemLife
    {
        return $this->point === null
            ? null
            : ItemLife::of($item, $this->view->sheet->points, $this->point->history_id, $this->point->instant);
    }
}
