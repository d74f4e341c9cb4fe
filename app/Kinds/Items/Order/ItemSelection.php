<?php

declare(strict_types=1);

namespace App\Kinds\Items\Order;

use App\Kinds\Items\Catalog\FoundItem;
use App\Kinds\Items\Catalog\ItemFinder;
use App\Kinds\Items\Catalog\ItemSpan;
use App\Kinds\Items\Catalog\SpanWindow;
use App\Models\BackupSet;
use App\Models\Workload;
use Illuminate\Support\Facades\DB;
use InvalidArgumentException;
use Kaiseki\Core\Instant;
use Kaiseki\Core\Mail\ItemQuery;
use stdClass;

/** Which items of a point are meant: single ones, what a search finds, a folder, a mailbox, or what vanished since another moment. */
final readonly class ItemSelection
{
    /** At most so many are brought at once. */
    public const MOST = 500_000;

    /** Of what a search finds. */
    private const MOST_FOUND = 50_000;

    /**
     * @param  list<string>  $items  see FoundItem::key(); with @ and CalendarTime::key() behind it one instance of a series
     * @param  string  $query  see ItemQuery; '' for none
     * @param  string|null  $mailbox  null for none as a whole; with a folder, of that mailbox
     * @param  string|null  $folder  with all below it
     * @param  string  $vanishedBy  a moment (ISO 8601): of all that is meant only what was not there any more then; '' for all of it
     */
    public function __construct(
        public array $items = [],
        public string $query = '',
        public ?string $mailbox = null,
        public ?string $folder = null,
        public string $vanishedBy = '',
        /** Of what a search finds: also what was there at other points only, as it lay there last. */
        public bool $ever = false,
    ) {
    }

    public function isEmpty(): bool
    {
        return $this->items === [] && $this->query === '' && $this->mailbox === null;
    }

    /** @return array{items: list<string>, query: string, mailbox: string|null, folder: string|null, vanishedBy: string, ever: bool} */
    public function toArray(): array
    {
        return get_object_vars($this);
    }

    /** @param  array<string, mixed>  $said */
    public static function fromArray(array $said): self
    {
        return new self(...array_intersect_key($said, get_class_vars(self::class)));
    }

    /** What a sentence says before the moment of the point. */
    public function asOf(): string
    {
        return $this->ever ? 'as each was last until' : 'as it was on';
    }

    public function words(): string
    {
        $what = match (true) {
            $this->items !== [] => count($this->items) === 1 ? 'one item' : number_format(count($this->items)).' items',
            $this->query !== '' => "what \"{$this->query}\" finds".($this->ever ? ' at any point' : ''),
            $this->folder !== null => "the folder {$this->folder} of ".self::named($this->mailbox),
            $this->mailbox !== null => 'the whole mailbox '.self::named($this->mailbox),
            default => 'something not picked yet',
        };

        return $this->vanishedBy === '' ? $what : "of $what, those that vanished since";
    }

    /**
     * With what it turned out to be.
     *
     * @param  list<ChosenItem>  $chosen
     */
    public function wordsFor(array $chosen): string
    {
        if ($this->items !== [] && count($chosen) === 1) {
            [$one] = $chosen;
            $named = "the {$one->item->sort->noun()} \"".mb_strimwidth($one->item->title(), 0, 70, '…').'"';

            return $named.($one->instance === '' ? '' : " only of {$one->day()}");
        }
        $count = ItemCount::of($chosen);

        return $this->items !== [] && $chosen !== [] ? $count : $this->words().($chosen === [] ? '' : " ($count)");
    }

    /**
     * @return list<ChosenItem> each item once for each folder in which it lay, by mailbox, folder and the time it was received
     *
     * @throws InvalidArgumentException if it means nothing, or too much
     */
    public function at(Workload $workload, BackupSet $point): array
    {
        $later = $this->later($point);
        $chosen = [];
        foreach ($this->found($workload, $point, SpanWindow::at($point, $later)) as $item) {
            $item = $this->mailbox === null ? $item : $item->in($this->mailbox);
            if ($later !== null && ! $item->isGoneAt($point->history_id, $later)) {
                continue;
            }
            foreach ($this->spansOf($item, $point) as $span) {
                foreach ($this->instancesOf($item) as $instance) {
                    $one = new ChosenItem($item, $span, $instance, $workload->zone);
                    if ($this->takes($one)) {
                        $chosen[$one->key()] ??= $one;
                    }
                }
            }
        }
        if (count($chosen) > self::MOST) {
            throw new InvalidArgumentException('At most '.number_format(self::MOST).' items are brought back at once.');
        }

        return self::inOrder(array_values($chosen));
    }

    /**
     * @param  list<ChosenItem>  $chosen
     * @return list<ChosenItem> by mailbox, folder, the time it was received, and what it is
     */
    private static function inOrder(array $chosen): array
    {
        $columns = [
            array_map(fn (ChosenItem $of): string => $of->span->mailbox, $chosen),
            array_map(fn (ChosenItem $of): string => $of->span->folder, $chosen),
            array_map(fn (ChosenItem $of): int => $of->receivedAt(), $chosen),
            array_map(fn (ChosenItem $of): int => $of->item->id, $chosen),
        ];
        array_multisort($columns[0], SORT_STRING, $columns[1], SORT_STRING, $columns[2], $columns[3], array_keys($chosen), $chosen);

        return $chosen;
    }

    /** @return list<ItemSpan> where it lay at the point; of one that is meant whenever it was, where it lay last */
    private function spansOf(FoundItem $item, BackupSet $point): array
    {
        $there = $item->spansAt($point->history_id, $point->instant);

        return $there !== [] || ! $this->ever ? $there : array_filter([$item->lastSpan()]);
    }

    /** @return list<string> those that are meant; '' for the whole */
    private function instancesOf(FoundItem $item): array
    {
        $instances = [];
        foreach ($this->items as $named) {
            [$key, $instance] = explode('@', $named) + ['', ''];
            if (str_starts_with(bin2hex($item->identity), $key)) {
                $instances[] = $instance;
            }
        }

        return $instances === [] || in_array('', $instances, true) ? [''] : $instances;
    }

    private static function named(?string $mailbox): string
    {
        return $mailbox === '' ? 'all' : (string) $mailbox;
    }

    private function takes(ChosenItem $one): bool
    {
        if ($this->mailbox === null) {
            return true;
        }
        $folder = $one->span->folder;

        return $one->span->mailbox === $this->mailbox &&
            ($this->folder === null || $folder === $this->folder || str_starts_with($folder, "{$this->folder}/"));
    }

    /** @return list<FoundItem> */
    private function found(Workload $workload, BackupSet $point, SpanWindow $window): array
    {
        if ($this->items !== []) {
            return array_values(array_filter(array_map(
                fn (string $key): ?FoundItem => ItemFinder::named($workload, $key),
                array_values(array_unique(array_map(fn (string $named): string => explode('@', $named)[0], $this->items))),
            )));
        }
        if ($this->query !== '') {
            $query = ItemQuery::parse($this->query, $workload->zone);

            return $this->ever
                ? ItemFinder::find($workload, $query, null, self::MOST_FOUND)
                : ItemFinder::findWithin($workload, $query, $point, $window, self::MOST_FOUND);
        }

        $ids = $this->mailbox === null ? [] : $this->ofMailbox($workload, $point);

        return ItemFinder::byId($workload, $ids, $this->ever ? null : $window);
    }

    /** @return list<int> */
    private function ofMailbox(Workload $workload, BackupSet $point): array
    {
        $ids = [];
        foreach (['v.parent_id' => 'parent_span', 'v.path_id' => 'path_span'] as $of => $index) {
            $rows = DB::select(
                "SELECT STRAIGHT_JOIN DISTINCT c.item_id FROM item_folders f JOIN versions v FORCE INDEX ($index) ".
                    "ON $of = f.path_id AND v.history_id = ? AND v.first <= ? AND v.until > ? ".
                    'JOIN item_contents c ON c.workload_id = f.workload_id AND c.digest = v.digest AND c.item_id > 0 '.
                    'WHERE f.workload_id = ? AND f.mailbox = ? AND (? IS NULL OR f.folder = ? OR f.folder LIKE ?) LIMIT ?',
                [
                    $point->history_id, $point->instant, $point->instant, $workload->id, $this->mailbox, $this->folder, $this->folder,
                    addcslashes((string) $this->folder, '%_\\').'/%', self::MOST + 1,
                ],
            );
            array_push($ids, ...array_map(fn (stdClass $row): int => (int) $row->item_id, $rows));
        }

        return array_values(array_unique($ids));
    }

    /** The newest point until the moment by which something is to have vanished; null if there is none, or that was not asked. */
    private function later(BackupSet $point): ?int
    {
        if ($this->vanishedBy === '') {
            return null;
        }
        $later = BackupSet::query()
            ->where('history_id', $point->history_id)
            ->where('instant', '<=', Instant::parse($this->vanishedBy)->microseconds)
            ->max('instant');

        return $later === null ? null : (int) $later;
    }
}
