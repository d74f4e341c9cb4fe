<?php

declare(strict_types=1);

namespace App\Kinds\Items\Run;

use App\Kinds\Items\Catalog\ItemReader;
use App\Kinds\Items\Catalog\KeywordMeanings;
use App\Kinds\Items\Order\CannotBringItems;
use App\Kinds\Items\Order\ChosenItem;
use App\Kinds\Items\Order\ItemConflict;
use App\Kinds\Items\Order\ItemsOrder;
use App\Kinds\Items\Server\MailboxCheck;
use App\Kinds\Items\Server\MailFolderLook;
use App\Kinds\Items\Server\MailServer;
use App\Words;
use Closure;
use Kaiseki\Core\Mail\Imap\ImapMailbox;
use Kaiseki\Core\Mail\Imap\ImapMessage;
use Kaiseki\Core\Mail\Message;

/** Lays messages into mailboxes of a mail server, each with its date and flags, and none twice. */
final class IntoMailboxes implements ItemPlacing
{
    /** Bytes that are held at once. */
    private const HELD = 32 << 20;

    private const AT_ONCE = 300;

    private readonly MailServer $server;

    /** @var array<string, ImapMailbox> mailbox => open line */
    private array $open = [];

    /** @var array<string, true> keys of messages that lay there already */
    private array $there = [];

    public function __construct(
        private readonly ItemsOrder $order,
        private readonly ItemsAccount $account,
        private readonly MailJournal $journal,
        private readonly ItemReader $reader,
        private readonly KeywordMeanings $keywords,
    ) {
        $this->server = $order->mailServer();
    }

    public function locks(array $chosen): array
    {
        $locks = [];
        foreach (array_keys($this->order->byMailbox($chosen)) as $mailbox) {
            $locks["mailbox {$this->server->name} $mailbox"] = "the mailbox $mailbox of {$this->server->name}";
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
        foreach ($this->byFolder($chosen) as [$mailbox, $folder, $some]) {
            $this->patiently($mailbox, function () use ($mailbox, $folder, $some): void {
                $this->bringInto($mailbox, $folder, $some);
            });
        }

        return sprintf(
            '%s laid, %s lay there already',
            Words::count(count($this->journal->laid), 'message'),
            number_format(count($this->there)),
        );
    }

    public function check(array $chosen): string
    {
        $wrong = ['digest' => [], 'date' => [], 'flags' => []];
        foreach ($this->byFolder($chosen) as [$mailbox, $folder, $some]) {
            $this->patiently($mailbox, function () use ($mailbox, $folder, $some, &$wrong): void {
                foreach ($this->checkFolder($mailbox, $folder, $some) as $what => $words) {
                    $wrong[$what] = [...$wrong[$what], ...$words];
                }
            });
        }
        $this->account->check('each message by its digest, read again from the server', $wrong['digest'], Words::count(
            $this->account->items,
            'message',
        ).' right');
        $this->account->check('when each was received', $wrong['date'], 'as it was');
        $this->account->check('flags and keywords', $wrong['flags'], 'as they were');
        $this->account->there += count($this->there);
        foreach ($this->open as $line) {
            $line->close();
        }
        $this->open = [];

        return Words::count($this->account->items, 'message').', '.Words::size($this->account->bytes).' read again from the server';
    }

    /**
     * @param  list<ChosenItem>  $chosen
     * @return list<array{string, string, list<ChosenItem>}> mailbox, folder, what goes into it
     */
    private function byFolder(array $chosen): array
    {
        $groups = [];
        foreach ($chosen as $one) {
            $key = $this->order->mailboxFor($one)."\0".$this->order->folderFor($one);
            $groups[$key] ??= [$this->order->mailboxFor($one), $this->order->folderFor($one), []];
            $groups[$key][2][] = $one;
        }

        return array_values($groups);
    }

    private function patiently(string $mailbox, Closure $do): void
    {
        Patience::with($this->account->progress, $do, function () use ($mailbox): void {
            unset($this->open[$mailbox]);
        });
    }

    private function line(string $mailbox): ImapMailbox
    {
        return $this->open[$mailbox] ??= $this->server->open($mailbox);
    }

    /** @param  list<ChosenItem>  $some */
    private function bringInto(string $mailbox, string $folder, array $some): void
    {
        $line = $this->line($mailbox);
        if (($line->folders()[$folder] ?? null)?->isSelectable() !== true) {
            $this->journal->making($mailbox, $folder);
            $line->create($folder);
        }
        $validity = $line->select($folder);
        $look = new MailFolderLook($line, $line->messages());
        $this->settle($line, $mailbox, $folder, $validity, $some);
        $open = array_values(array_filter($some, fn (ChosenItem $one): bool => ! isset($this->journal->laid[$one->key()])));
        if ($this->order->conflict !== ItemConflict::Beside) {
            $open = $this->missing($look, $open);
        }
        foreach ($this->portions($open) as $portion) {
            $this->lay($line, $mailbox, $folder, $validity, $portion);
        }
    }

    /**
     * Those of which a killed attempt did not learn whether they are there.
     *
     * @param  list<ChosenItem>  $some
     */
    private function settle(ImapMailbox $line, string $mailbox, string $folder, int $validity, array $some): void
    {
        foreach ($some as $one) {
            $next = $this->journal->unsure[$one->key()] ?? null;
            if ($next === null) {
                continue;
            }
            $since = $line->messages($next);
            $uids = array_fill_keys(array_map(fn (ImapMessage $of): int => $of->uid, $since), true);
            foreach ($this->journal->laid as $laid) {
                if ($laid->mailbox === $mailbox && $laid->folder === $folder) {
                    unset($uids[$laid->uid]);
                }
            }
            $look = new MailFolderLook($line, array_values(array_filter($since, fn (ImapMessage $of): bool => isset($uids[$of->uid]))));
            $uid = $look->same([$one->item->identity => [$one->item->messageId, $one->item->size]])[$one->item->identity] ?? null;
            if ($uid === null) {
                $this->journal->isNotThere($one->key());
            } else {
                $flags = $this->keywords->flagsOf($one->span);
                $this->journal->laid(new LaidItem($one->key(), $mailbox, $folder, $validity, $uid, $flags));
            }
        }
    }

    /**
     * @param  list<ChosenItem>  $open
     * @return list<ChosenItem> those that do not lie there
     */
    private function missing(MailFolderLook $look, array $open): array
    {
        $wanted = [];
        foreach ($open as $one) {
            $wanted[$one->item->identity] = [$one->item->messageId, $one->item->size];
        }
        $same = $look->same($wanted);
        $missing = [];
        foreach ($open as $one) {
            if (isset($same[$one->item->identity])) {
                $this->there[$one->key()] = true;
            } else {
                $missing[] = $one;
            }
        }

        return $missing;
    }

    /**
     * @param  list<ChosenItem>  $open
     * @return list<list<ChosenItem>> few enough each to be held at once
     */
    private function portions(array $open): array
    {
        $portions = $portion = [];
        $bytes = 0;
        foreach ($open as $one) {
            if ($portion !== [] && ($bytes + $one->item->size > self::HELD || count($portion) >= self::AT_ONCE)) {
                $portions[] = $portion;
                [$portion, $bytes] = [[], 0];
            }
            $portion[] = $one;
            $bytes += $one->item->size;
        }

        return $portion === [] ? $portions : [...$portions, $portion];
    }

    /** @param  list<ChosenItem>  $portion */
    private function lay(ImapMailbox $line, string $mailbox, string $folder, int $validity, array $portion): void
    {
        $bytes = $this->reader->all(array_map(fn (ChosenItem $one): int => $one->item->id, $portion));
        $next = $line->nextUid();
        foreach ($portion as $one) {
            $message = $bytes[$one->item->id] ?? null;
            if ($message === null) {
                $this->account->left($one, 'it is in no archive that can be read', true);

                continue;
            }
            $flags = $this->keywords->flagsOf($one->span);
            $this->journal->laying($one->key(), $next);
            $uid = $line->append($folder, $message, $flags, $one->receivedAt()) ??
                throw CannotBringItems::because('The server did not say under which number a message lies, so nothing more is laid.');
            $this->journal->laid(new LaidItem($one->key(), $mailbox, $folder, $validity, $uid, $flags));
            $next = $uid + 1;
            $this->account->progress->advanced(1, strlen($message));
        }
    }

    /**
     * @param  list<ChosenItem>  $some
     * @return array{digest: list<string>, date: list<string>, flags: list<string>} what is wrong
     */
    private function checkFolder(string $mailbox, string $folder, array $some): array
    {
        $line = $this->line($mailbox);
        $validity = $line->select($folder);
        $there = [];
        foreach ($line->messages() as $message) {
            $there[$message->uid] = $message;
        }
        $laid = array_filter(
            $this->journal->laid,
            fn (LaidItem $of): bool => $of->mailbox === $mailbox && $of->folder === $folder && $of->validity === $validity,
        );
        $identities = [];
        $uids = array_map(fn (LaidItem $of): int => $of->uid, array_values($laid));
        $line->read($uids, function (int $uid, string $bytes) use (&$identities): void {
            $identities[$uid] = Message::identityOf($bytes);
        });
        $wrong = ['digest' => [], 'date' => [], 'flags' => []];
        foreach ($some as $one) {
            $of = $laid[$one->key()] ?? null;
            if ($of === null) {
                $this->account->folders[$folder] = ($this->account->folders[$folder] ?? 0) + (isset($this->there[$one->key()]) ? 1 : 0);

                continue;
            }
            $message = $there[$of->uid] ?? null;
            if ($message === null || ($identities[$of->uid] ?? '') !== $one->item->identity) {
                $is = $message === null ? 'not there' : 'another than in the set';
                $wrong['digest'][] = "\"{$one->item->subject}\" in $folder is $is";

                continue;
            }
            $this->account->right($one, "$mailbox/$folder, number {$of->uid}");
            $this->account->folders[$folder] = ($this->account->folders[$folder] ?? 0) + 1;
            if ($message->receivedAt !== $one->receivedAt()) {
                $wrong['date'][] = "\"{$one->item->subject}\" is of ".gmdate('Y-m-d H:i:s', $message->receivedAt).' there';
            }
            if (array_diff($of->flags, $message->flags) !== []) {
                $wrong['flags'][] = "\"{$one->item->subject}\" lacks ".implode(', ', array_diff($of->flags, $message->flags));
            }
        }

        return $wrong;
    }
}
