<?php

declare(strict_types=1);

namespace App\Kinds\Items\Server;

use App\Kinds\Items\Order\CannotBringItems;
use App\Kinds\Items\Order\ChosenItem;
use App\Kinds\Items\Order\ItemConflict;
use App\Kinds\Items\Order\ItemsOrder;
use App\Runs\RunMustWait;
use App\Words;
use Closure;
use Kaiseki\Core\Mail\Imap\ImapFailure;
use Kaiseki\Core\Mail\Imap\ImapFolder;
use Kaiseki\Core\Mail\Imap\ImapMailbox;
use Kaiseki\Core\Mail\ItemSort;
use Kaiseki\Core\Proof\CheckLine;

/** What a mail server says of the mailboxes that an order goes into, before anything is laid into them. */
final class MailboxCheck
{
    /** @var list<CheckLine> note, passed or failed */
    public array $lines = [];

    /** Of what is ordered so many lie there already. */
    public int $there = 0;

    /** @var array<string, string> mailboxes that are not there, and are waited for or made => that, in words: see AwaitedMailbox */
    public array $awaited = [];

    private function __construct(private readonly ItemsOrder $order)
    {
    }

    /**
     * @param  list<ChosenItem>  $chosen
     * @return self with failed lines where the order cannot be carried out
     */
    public static function of(ItemsOrder $order, array $chosen): self
    {
        $check = new self($order);
        $isMail = fn (ChosenItem $one): bool => $one->item->sort === ItemSort::Message;
        foreach ($order->byMailbox(array_values(array_filter($chosen, $isMail))) as $mailbox => $some) {
            $check->mailbox((string) $mailbox, $some);
        }
        CollectionCheck::into($check, $order, array_values(array_filter($chosen, fn (ChosenItem $one): bool => ! $isMail($one))));

        return $check;
    }

    /**
     * @param  list<ChosenItem>  $chosen
     * @param  Closure(string): void  $make  makes a mailbox, where the order has it made
     * @return string what was done, in words
     *
     * @throws CannotBringItems if the order cannot be carried out
     * @throws RunMustWait if a mailbox is to be made first
     */
    public static function demand(ItemsOrder $order, array $chosen, Closure $make): string
    {
        $check = self::demanded($order, $chosen);
        $made = $order->makes ? array_map(strval(...), array_keys($check->awaited)) : [];
        array_map($make, $made);
        $check = $made === [] ? $check : self::demanded($order, $chosen);
        if ($check->awaited !== []) {
            throw $made === []
                ? RunMustWait::forOthers(array_values($check->awaited))
                : CannotBringItems::because('It was made, and cannot be opened: '.implode(', ', $check->awaited).'.');
        }
        $told = count($check->lines).' things were looked at';

        return $made === [] ? $told : 'made '.implode(', ', array_map($order->mailServer()->accountOf(...), $made))."; $told";
    }

    /**
     * @param  list<ChosenItem>  $chosen
     *
     * @throws CannotBringItems if the order cannot be carried out
     */
    private static function demanded(ItemsOrder $order, array $chosen): self
    {
        $check = self::of($order, $chosen);

        return $check->blockers() === [] ? $check : throw CannotBringItems::because(implode(' ', $check->blockers()));
    }

    /** @return list<string> */
    private function blockers(): array
    {
        return array_map(fn (CheckLine $line): string => ucfirst($line->words()), CheckLine::wrong($this->lines));
    }

    /** @param  list<ChosenItem>  $some */
    private function mailbox(string $mailbox, array $some): void
    {
        $server = $this->order->mailServer();
        $account = $server->accountOf($mailbox);
        try {
            $open = $server->open($mailbox);
        } catch (ImapFailure $failure) {
            if (! $failure->isLost && $this->isAwaited($mailbox)) {
                return;
            }
            $hint = $failure->isLost ? '' : ' If it has no account there any more, wait for one, choose another, or take files.';
            $this->line('the mailbox', 'failed', "$account: {$failure->getMessage()}$hint");

            return;
        }
        try {
            $this->line('the mailbox', 'passed', "$account is there on {$server->name}");
            if (! $open->isAbleTo('UIDPLUS')) {
                $because = 'the server does not say under which number it lies (RFC 4315), so nothing could be undone';
                $this->line('what is added', 'failed', $because);
            }
            $this->folders($open, $account, $some);
            $this->room($open, $account, $some);
        } catch (ImapFailure $failure) {
            $this->line('the mailbox', 'failed', "$account: {$failure->getMessage()}");
        } finally {
            $open->close();
        }
    }

    /** Whether a mailbox that could not be opened is waited for; then that is said. */
    public function isAwaited(string $mailbox): bool
    {
        if ($this->order->awaits) {
            $words = AwaitedMailbox::words($this->order->mailServer(), $mailbox);
            $then = $this->order->makes
                ? 'it is made anew; '.NewMailbox::LOST
                : 'the run waits until it has been made, and goes on by itself';
            isset($this->awaited[$mailbox]) || $this->line('the mailbox', 'note', "$words is not there: $then");
            $this->awaited[$mailbox] = $words;
        }

        return $this->order->awaits;
    }

    /** @param  list<ChosenItem>  $some */
    private function folders(ImapMailbox $open, string $account, array $some): void
    {
        $folders = $open->folders();
        $byFolder = [];
        foreach ($some as $one) {
            $byFolder[$this->order->folderFor($one)][$one->item->identity] = [$one->item->messageId, $one->item->size];
        }
        foreach ($byFolder as $folder => $wanted) {
            $folder = (string) $folder;
            if (! isset($folders[$folder]) || ! $folders[$folder]->isSelectable()) {
                $this->line('the folder', 'note', "$folder is not there, and is made");

                continue;
            }
            $same = self::same($open, $folder, $wanted);
            $this->there += $same;
            $of = number_format($same).' of '.Words::count(count($wanted), 'message').' lie there already';
            $then = $this->order->conflict !== ItemConflict::Beside ? ', and are left' : ', and come once more';
            $this->line('the folder', 'note', $same === 0 ? "$folder is there; nothing of it lies there" : "$folder: $of$then");
        }
        $this->trash($open, $folders, array_merge(...array_values($byFolder)));
    }

    /**
     * The mailbox's own folder of deleted things: what lies there can be moved back by its owner, but is not there.
     *
     * @param  array<string, ImapFolder>  $folders
     * @param  array<string, array{string, int}>  $wanted
     */
    private function trash(ImapMailbox $open, array $folders, array $wanted): void
    {
        foreach ($folders as $name => $folder) {
            $same = $folder->isTrash() ? self::same($open, (string) $name, $wanted) : 0;
            if ($same > 0) {
                $this->line('deleted things', 'note', number_format($same)." of it lie in $name: the owner can move them back");
            }
        }
    }

    /** @param  array<string, array{string, int}>  $wanted */
    private static function same(ImapMailbox $open, string $folder, array $wanted): int
    {
        $open->select($folder);

        return count((new MailFolderLook($open, $open->messages()))->same($wanted));
    }

    /** @param  list<ChosenItem>  $some */
    private function room(ImapMailbox $open, string $account, array $some): void
    {
        $storage = $open->storage();
        if ($storage === null) {
            $this->line('room', 'note', 'the server tells no limit');

            return;
        }
        $needed = array_sum(array_map(fn (ChosenItem $one): int => $one->item->size, $some));
        $free = max(0, $storage[1] - $storage[0]);
        $fits = $free >= $needed || ($this->there > 0 && $this->order->conflict !== ItemConflict::Beside);
        $this->line(
            'room',
            $fits ? 'passed' : 'failed',
            Words::size($free)." free in $account, ".Words::size($needed).' needed'.($fits ? '' : ': raise its limit, or choose less'),
        );
    }

    public function line(string $check, string $result, string $detail): void
    {
        $this->lines[] = new CheckLine($check, $result, mb_scrub($detail));
    }
}
