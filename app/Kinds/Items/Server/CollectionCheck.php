<?php

declare(strict_types=1);

namespace App\Kinds\Items\Server;

use App\Kinds\Items\Order\ChosenItem;
use App\Kinds\Items\Order\ItemConflict;
use App\Kinds\Items\Order\ItemCount;
use App\Kinds\Items\Order\ItemsOrder;
use Kaiseki\Core\Mail\Dav\DavCollection;
use Kaiseki\Core\Mail\Dav\DavFailure;
use Kaiseki\Core\Mail\Dav\DavHome;
use Kaiseki\Core\Mail\ItemSort;
use Kaiseki\Core\Mail\MailLayout;

/** What a server says of the calendars and contacts that an order goes into, before anything is laid into them. */
final readonly class CollectionCheck
{
    private function __construct(private ItemsOrder $order, private MailboxCheck $told)
    {
    }

    /**
     * @param  list<ChosenItem>  $chosen  none of them a message
     * @param  MailboxCheck  $told  what is found is added to it
     */
    public static function into(MailboxCheck $told, ItemsOrder $order, array $chosen): void
    {
        $check = new self($order, $told);
        foreach ($order->byMailbox($chosen) as $mailbox => $some) {
            $check->mailbox((string) $mailbox, $some);
        }
    }

    /** @param  list<ChosenItem>  $some */
    private function mailbox(string $mailbox, array $some): void
    {
        $server = $this->order->mailServer();
        $account = $server->accountOf($mailbox);
        if ($server->dav === '') {
            $because = "{$server->name} is not known to keep any: bin/kaiseki mail-server add {$server->name} --dav=, or take files";
            $this->told->line('calendars and contacts', 'failed', $because);

            return;
        }
        try {
            $home = $server->openDav($mailbox);
            $this->told->line('calendars and contacts', 'passed', "those of $account are there on {$server->name}");
            $this->invitations($home, $some);
            foreach (self::byCollection($this->order, $some) as [$name, $holds, $these]) {
                $this->collection($home, $name, $holds, $these);
            }
        } catch (DavFailure $failure) {
            if (in_array($failure->status, [403, 404], true) && $this->told->isAwaited($mailbox)) {
                return;
            }
            $hint = in_array($failure->status, [403, 404], true)
                ? ' If it has none there any more, have them made, choose another mailbox, or take files.'
                : '';
            $this->told->line('calendars and contacts', 'failed', "$account: {$failure->getMessage()}$hint");
        }
    }

    /**
     * @param  list<ChosenItem>  $some
     * @return list<array{string, ItemSort, list<ChosenItem>}> name of a collection, what it holds, what goes into it
     */
    public static function byCollection(ItemsOrder $order, array $some): array
    {
        $groups = [];
        foreach ($some as $one) {
            $holds = $one->item->sort === ItemSort::Contact ? ItemSort::Contact : ItemSort::Appointment;
            $name = MailLayout::collection($order->folderFor($one));
            $groups["{$holds->value}$name"] ??= [$name, $holds, []];
            $groups["{$holds->value}$name"][2][] = $one;
        }

        return array_values($groups);
    }

    /** @param  list<ChosenItem>  $some */
    private function invitations(DavHome $home, array $some): void
    {
        $withPeople = array_filter($some, fn (ChosenItem $one): bool => $one->item->sort->isOfCalendar() && $one->item->recipients !== '');
        if ($withPeople === []) {
            return;
        }
        $sends = $home->sendsInvitations();
        $this->told->line(
            'invitations',
            $sends ? 'failed' : 'passed',
            $sends
                ? 'the server writes to everybody who is asked as soon as an appointment is laid (RFC 6638); take files, and take them in '.
                    'with what the mailbox is read by'
                : 'the server sends none by itself',
        );
    }

    /** @param  list<ChosenItem>  $some */
    private function collection(DavHome $home, string $name, ItemSort $holds, array $some): void
    {
        $noun = $holds === ItemSort::Contact ? 'the contacts' : 'the calendar';
        $there = $home->collection($name, $holds);
        if ($there === null) {
            $this->told->line($noun, 'note', "$name is not there, and is made");

            return;
        }
        $refused = array_filter(
            $some,
            fn (ChosenItem $one): bool => $there->components !== [] && ! in_array($one->item->sort->component(), $there->components, true),
        );
        if ($refused !== []) {
            $what = ItemCount::of(array_values($refused));
            $this->told->line($noun, 'failed', "$name is no calendar for $what: name another one, or take files");
        }
        $look = new CollectionLook($holds, $home->entries($there));
        [$same, $other, $none] = [[], [], []];
        foreach ($some as $one) {
            $is = $one->instance === '' && $look->holds($one->item->identity);
            $present = $look->of($one->item->messageId);
            match (true) {
                $is => $same[] = $one,
                $present !== null => $other[] = $one,
                default => $none[] = $one,
            };
        }
        $this->told->there += count($same);
        $this->told->line($noun, 'note', self::words($there, $same, $other, $none, $this->order->conflict));
    }

    /**
     * @param  list<ChosenItem>  $same
     * @param  list<ChosenItem>  $other
     * @param  list<ChosenItem>  $none
     */
    private static function words(DavCollection $of, array $same, array $other, array $none, ItemConflict $conflict): string
    {
        $words = [];
        $whole = array_values(array_filter($other, fn (ChosenItem $one): bool => $one->instance === ''));
        $single = count($other) - count($whole);
        if ($none !== []) {
            $words[] = ItemCount::of($none).' not there';
        }
        if ($same !== []) {
            $words[] = ItemCount::of($same).' there as it was, and left';
        }
        if ($whole !== []) {
            $words[] = ItemCount::of($whole).' there with something else, '.match ($conflict) {
                ItemConflict::MissingOnly => 'and left: see How',
                ItemConflict::Replace => 'set aside and replaced',
                ItemConflict::Beside => 'and comes beside it',
            };
        }
        if ($single > 0) {
            $words[] = "$single of a series that is there: only that day is changed, and what it was now is set aside";
        }

        return $of->name().': '.implode('; ', $words);
    }
}
