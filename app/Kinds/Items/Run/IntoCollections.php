<?php

declare(strict_types=1);

namespace App\Kinds\Items\Run;

use App\Kinds\Items\Catalog\ItemReader;
use App\Kinds\Items\Order\ChosenItem;
use App\Kinds\Items\Order\ItemConflict;
use App\Kinds\Items\Order\ItemsOrder;
use App\Kinds\Items\Server\CollectionCheck;
use App\Kinds\Items\Server\CollectionLook;
use App\Kinds\Items\Server\MailboxCheck;
use App\Kinds\Items\Server\MailServer;
use App\Words;
use DateTimeZone;
use Kaiseki\Core\Mail\Calendar\CalendarObject;
use Kaiseki\Core\Mail\Calendar\FieldChange;
use Kaiseki\Core\Mail\Calendar\ObjectUid;
use Kaiseki\Core\Mail\Calendar\OccurrenceSwap;
use Kaiseki\Core\Mail\Dav\DavCollection;
use Kaiseki\Core\Mail\Dav\DavEntry;
use Kaiseki\Core\Mail\Dav\DavFailure;
use Kaiseki\Core\Mail\Dav\DavHome;
use Kaiseki\Core\Mail\ItemSort;

/** Lays appointments and contacts into the collections of a server, and none twice. */
final class IntoCollections implements ItemPlacing
{
    private const AT_ONCE = 200;

    private readonly MailServer $server;

    /** @var array<string, true> keys of items that were there as they are in the set */
    private array $there = [];

    /** @var array<string, true> keys of items that were left, and are not tried again where the server was gone for a moment */
    private array $left = [];

    public function __construct(
        private readonly ItemsOrder $order,
        private readonly ItemsAccount $account,
        private readonly CollectionJournal $journal,
        private readonly ItemReader $reader,
        private readonly DateTimeZone $home,
    ) {
        $this->server = $order->mailServer();
    }

    public function locks(array $chosen): array
    {
        $locks = [];
        foreach (array_keys($this->order->byMailbox($chosen)) as $mailbox) {
            $locks["collections {$this->server->name} $mailbox"] = "calendars and contacts of $mailbox on {$this->server->name}";
        }
        ksort($locks); // whoever takes several takes them in one order

        return $locks;
    }

    public function look(array $chosen): string
    {
        if ($this->journal->laid !== [] || $this->journal->unsure !== []) {
            return 'it was begun with before the interruption';
        }

        return MailboxCheck::demand($this->order, $chosen, (new MailboxMaker($this->order, $this->account))->make(...));
    }

    public function bring(array $chosen): string
    {
        foreach ($this->order->byMailbox($chosen) as $mailbox => $some) {
            foreach (CollectionCheck::byCollection($this->order, $some) as [$name, $holds, $these]) {
                Patience::with($this->account->progress, function () use ($mailbox, $name, $holds, $these): void {
                    $this->bringInto((string) $mailbox, $name, $holds, $these);
                });
            }
        }

        return sprintf(
            '%s laid into calendars and contacts, %s there already',
            number_format(count($this->journal->laid)),
            number_format(count($this->there)),
        );
    }

    public function check(array $chosen): string
    {
        $wrong = [];
        foreach ($this->order->byMailbox($chosen) as $mailbox => $some) {
            foreach (CollectionCheck::byCollection($this->order, $some) as [$name, $holds, $these]) {
                Patience::with($this->account->progress, function () use ($mailbox, $name, $holds, $these, &$wrong): void {
                    $wrong = [...$wrong, ...$this->checkCollection((string) $mailbox, $name, $holds, $these)];
                });
            }
        }
        $laid = count($this->journal->laid);
        $this->account->check('each appointment and contact field by field, read again from the server', $wrong, "$laid right");
        $this->account->there += count($this->there);
        $this->account->replaced = $this->journal->replaced();

        return Words::count($laid, 'object').' read again from the server';
    }

    /** @param  list<ChosenItem>  $some */
    private function bringInto(string $mailbox, string $name, ItemSort $holds, array $some): void
    {
        $home = $this->server->openDav($mailbox);
        $collection = $home->collection($name, $holds);
        if ($collection === null) {
            $collection = $home->make($name, $holds);
            $this->journal->making($mailbox, $collection->href);
        }
        $look = new CollectionLook($holds, $home->entries($collection));
        $this->settle($look, $some);
        $done = $this->journal->laid + $this->left;
        $open = array_values(array_filter($some, fn (ChosenItem $one): bool => ! isset($done[$one->key()])));
        foreach (array_chunk($open, self::AT_ONCE) as $portion) {
            $bytes = $this->reader->all(array_map(fn (ChosenItem $one): int => $one->item->id, $portion));
            foreach ($portion as $one) {
                if (! isset($bytes[$one->item->id])) {
                    $this->leave($one, 'it is in no archive that can be read', true);
                } else {
                    $this->one($home, $collection, $mailbox, $look, $one, $bytes[$one->item->id]);
                }
            }
        }
    }

    /**
     * Those of which a killed attempt did not learn whether they are there.
     *
     * @param  list<ChosenItem>  $some
     */
    private function settle(CollectionLook $look, array $some): void
    {
        foreach ($some as $one) {
            $unsure = $this->journal->unsure[$one->key()] ?? null;
            if ($unsure !== null && $look->identityAt($unsure->href) === $unsure->identity) {
                $this->journal->laid($one->key());
            } elseif ($unsure !== null) {
                $this->journal->isNotThere($one->key());
            }
        }
    }

    private function one(DavHome $home, DavCollection $in, string $mailbox, CollectionLook $look, ChosenItem $one, string $bytes): void
    {
        $present = $look->of($one->item->messageId);
        if ($one->instance !== '') {
            $this->instance($home, $in, $mailbox, $present, $one, $bytes);

            return;
        }
        if ($look->holds($one->item->identity)) {
            $this->there[$one->key()] = true;

            return;
        }
        if ($present === null) {
            $this->lay($home, $in, $mailbox, $one, $bytes, $this->free($in, $look, $one), null);
        } elseif ($this->order->conflict === ItemConflict::MissingOnly) {
            $this->leave($one, 'something else is there under its name now, and was left as was ordered', false);
        } elseif ($this->order->conflict === ItemConflict::Replace) {
            $this->lay($home, $in, $mailbox, $one, $bytes, $present->href, $present);
        } else {
            $uid = "{$one->item->messageId}-back-{$this->account->run->id}";
            $copy = ObjectUid::renamed($bytes, $uid);
            // One of before the interruption is there already.
            if ($look->of($uid) === null) {
                $this->lay($home, $in, $mailbox, $one, $copy, $this->free($in, $look, $one, "-back-{$this->account->run->id}"), null);
            }
        }
    }

    /** One instance of a series: the rest of what is there now stays. */
    private function instance(DavHome $home, DavCollection $in, string $mailbox, ?DavEntry $present, ChosenItem $one, string $bytes): void
    {
        if ($present === null) {
            $this->leave($one, 'its series is not there any more: bring the whole of it back', true);

            return;
        }
        $present = $home->entry($present->href) ?? $present; // another day of it may have been laid a moment ago
        $then = CalendarObject::of($bytes);
        $now = CalendarObject::of($present->bytes);
        if (OccurrenceSwap::isDone($then, $now, $one->instance, $this->home)) {
            $this->there[$one->key()] = true;

            return;
        }
        $merged = OccurrenceSwap::of($then, $now, $one->instance, $this->home);
        if ($merged === null) {
            $this->leave($one, 'the series that is there now has no such day: bring the whole of it beside', true);
        } else {
            $this->lay($home, $in, $mailbox, $one, $merged, $present->href, $present);
        }
    }

    private function leave(ChosenItem $one, string $because, bool $isLoss): void
    {
        $this->left[$one->key()] = true;
        $this->account->left($one, $because, $isLoss);
    }

    /** A path in the collection at which nothing stands: as it was called in the set, where that is a name. */
    private function free(DavCollection $in, CollectionLook $look, ChosenItem $one, string $mark = ''): string
    {
        $ending = $one->item->sort->ending();
        $stem = pathinfo($one->span->name, PATHINFO_FILENAME);
        $isPlain = strcasecmp(pathinfo($one->span->name, PATHINFO_EXTENSION), $ending) === 0 &&
            preg_match('/^[A-Za-z0-9@_][A-Za-z0-9@._-]{0,120}$/D', $stem) === 1;
        $href = $in->href.rawurlencode($isPlain ? "$stem$mark.$ending" : $one->item->key()."$mark.$ending");

        return $look->has($href) || $this->isTaken($href) ? $in->href.bin2hex($one->item->identity)."$mark.$ending" : $href;
    }

    private function isTaken(string $href): bool
    {
        foreach ($this->journal->laid as $laid) {
            if ($laid->href === $href) {
                return true;
            }
        }

        return false;
    }

    private function lay(
        DavHome $home,
        DavCollection $in,
        string $mailbox,
        ChosenItem $one,
        string $bytes,
        string $href,
        ?DavEntry $instead,
    ): void {
        $sort = $one->item->sort;
        $aside = $instead === null ? '' : $this->journal->keep($instead->bytes, $sort);
        $this->journal->laying(new LaidObject($one->key(), $mailbox, $in->href, $href, $sort, $sort->identityOf($bytes), $aside));
        try {
            $home->put($href, $bytes, $sort, $instead?->etag);
        } catch (DavFailure $failure) {
            if ($failure->isLost) {
                throw $failure;
            }
            $this->journal->isNotThere($one->key());
            $because = $failure->status === 412 ? 'somebody changed what is there at this very moment' : $failure->getMessage();
            $this->leave($one, $because, true);

            return;
        }
        $this->journal->laid($one->key());
        $this->account->progress->advanced(1, strlen($bytes));
    }

    /**
     * @param  list<ChosenItem>  $some
     * @return list<string> what is wrong
     */
    private function checkCollection(string $mailbox, string $name, ItemSort $holds, array $some): array
    {
        $home = $this->server->openDav($mailbox);
        $collection = $home->collection($name, $holds);
        $entries = [];
        foreach ($collection === null ? [] : $home->entries($collection) as $entry) {
            $entries[$entry->href] = $entry;
        }
        $wrong = [];
        $right = 0;
        foreach ($some as $one) {
            $laid = $this->journal->laid[$one->key()] ?? null;
            $right += isset($this->there[$one->key()]) ? 1 : 0;
            if ($laid === null) {
                continue;
            }
            $is = $entries[$laid->href] ?? null;
            if ($is !== null && $this->isRight($one, $laid, $is)) {
                $this->account->right($one, rawurldecode($laid->href));
                $right++;
            } else {
                $wrong[] = "\"{$one->title()}\" in $name ".($is === null ? 'is not there' : $this->difference($one, $is));
            }
        }
        $folder = $this->order->folderFor($some[0]);
        $this->account->folders[$folder] = ($this->account->folders[$folder] ?? 0) + $right;

        return $wrong;
    }

    private function isRight(ChosenItem $one, LaidObject $laid, DavEntry $is): bool
    {
        if ($one->instance === '') {
            return $laid->sort->identityOf($is->bytes) === $laid->identity;
        }
        $then = CalendarObject::of((string) $this->reader->one($one->item->id));

        return OccurrenceSwap::isDone($then, CalendarObject::of($is->bytes), $one->instance, $this->home);
    }

    /** In which fields the server has something else than it was given. */
    private function difference(ChosenItem $one, DavEntry $is): string
    {
        $was = (string) $this->reader->one($one->item->id);
        $read = $one->item->sort->read(...);
        $fields = array_unique(array_map(
            fn (FieldChange $change): string => $change->field,
            FieldChange::between($read($was)->root, $read($is->bytes)->root, $this->home),
        ));

        return $fields === [] ? 'is another than in the set' : 'differs there in '.implode(', ', array_slice($fields, 0, 5));
    }
}
