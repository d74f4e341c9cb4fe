<?php

declare(strict_types=1);

namespace App\Kinds\Items\Order;

use App\Kinds\Items\Server\MailServer;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Files\UnableToRestore;
use Kaiseki\Core\Mail\ItemSort;

/** The order of a run that brings items back, as it was confirmed. */
final readonly class ItemsOrder
{
    public function __construct(
        public ItemSelection $selection,
        /** The name of a mail server; '' for a folder of files. */
        public string $server,
        /** '' for the mailbox that each came from. */
        public string $mailbox,
        /** '' for the folder that each came from. */
        public string $folder,
        public ItemConflict $conflict,
        /** Absolute; where no server is named. */
        public string $target,
        public ItemForm $form,
        public string $sentence,
        public CopyRule $copies = new CopyRule,
        /** An address that they are sent to; '' for none. */
        public string $send = '',
        /** Whether a mailbox that is not there is waited for, until whoever runs the server has made it. */
        public bool $awaits = false,
        /** The person who brings back their own by it; 0 for an order of the desk. */
        public int $ownOf = 0,
        /** Whether a mailbox that is not there is made, where it would be waited for: two people look at that, whatever it is of. */
        public bool $makes = false,
    ) {
    }

    public function isToServer(): bool
    {
        return $this->server !== '';
    }

    public function isToFolder(): bool
    {
        return ! $this->isToServer() && $this->send === '';
    }

    /** What goes to the law is looked at by two people, whatever it is of. */
    public function isForTheLaw(): bool
    {
        return $this->isToFolder() && $this->form === ItemForm::Bag;
    }

    /** Whether something that is there may get another content: it is set aside first. */
    public function replaces(): bool
    {
        $instances = array_filter($this->selection->items, fn (string $named): bool => str_contains($named, '@'));

        return $this->isToServer() && ($this->conflict === ItemConflict::Replace || $instances !== []);
    }

    /** @throws UnableToRestore if it is not known any more */
    public function mailServer(): MailServer
    {
        return MailServer::query()->where('name', $this->server)->first() ??
            throw UnableToRestore::refused("The mail server {$this->server} is not known any more.");
    }

    /** The mailbox that something goes into, as a set names it. */
    public function mailboxFor(ChosenItem $one): string
    {
        return $this->mailbox === '' ? $one->span->mailbox : $this->mailbox;
    }

    /**
     * @param  list<ChosenItem>  $chosen
     * @return array<string, list<ChosenItem>> mailbox => what goes into it
     */
    public function byMailbox(array $chosen): array
    {
        $groups = [];
        foreach ($chosen as $one) {
            $groups[$this->mailboxFor($one)][] = $one;
        }

        return $groups;
    }

    public function folderFor(ChosenItem $one): string
    {
        return $this->folder === '' ? $one->span->folder : $this->folder;
    }

    /** @param  list<ChosenItem>  $chosen */
    public static function checkInWords(array $chosen): string
    {
        $fields = array_filter($chosen, fn (ChosenItem $one): bool => $one->item->sort->isOfFields());

        return match (true) {
            $fields === [] => 'each by digest, date and flags',
            count($fields) === count($chosen) => 'each field by field',
            default => 'messages by digest, date and flags, the others field by field',
        };
    }

    /**
     * Where things of this sort lie.
     *
     * @param  list<ChosenItem>  $chosen
     */
    public static function folderInWords(array $chosen): string
    {
        $sorts = array_map(fn (ChosenItem $one): ItemSort => $one->item->sort, $chosen);

        return match (true) {
            $sorts === [] || in_array(ItemSort::Message, $sorts, true) => 'folder',
            ! in_array(ItemSort::Contact, $sorts, true) => 'calendar',
            array_filter($sorts, fn (ItemSort $sort): bool => $sort->isOfCalendar()) === [] => 'book of contacts',
            default => 'calendar or book of contacts',
        };
    }

    /**
     * What happens to what is there.
     *
     * @param  list<ChosenItem>  $chosen
     */
    public static function conflictInWords(ItemConflict $conflict, array $chosen): string
    {
        $whole = array_filter($chosen, fn (ChosenItem $one): bool => $one->instance === '');

        return $chosen !== [] && $whole === [] ? 'leaving the rest of its series as it is now' : $conflict->words();
    }

    public function withSentence(string $sentence): self
    {
        return new self(...['sentence' => $sentence] + get_object_vars($this));
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return [
            'selection' => $this->selection->toArray(),
            'server' => $this->server,
            'mailbox' => $this->mailbox,
            'folder' => $this->folder,
            'conflict' => $this->conflict->value,
            'target' => rawurlencode($this->target),
            'form' => $this->form->value,
            'sentence' => $this->sentence,
            'use' => $this->copies->use,
            'avoid' => $this->copies->avoid,
            'send' => $this->send,
            // Only then: orders of before wait under what they were.
        ] + array_filter(['awaits' => $this->awaits, 'own_of' => $this->ownOf, 'makes' => $this->makes]);
    }

    /** @param  array<string, mixed>  $plan */
    public static function fromArray(array $plan): self
    {
        return new self(
            ItemSelection::fromArray($plan['selection']),
            $plan['server'],
            $plan['mailbox'],
            $plan['folder'],
            ItemConflict::from($plan['conflict']),
            rawurldecode($plan['target']),
            ItemForm::from($plan['form']),
            $plan['sentence'],
            new CopyRule($plan['use'], $plan['avoid']),
            $plan['send'] ?? '',
            $plan['awaits'] ?? false,
            $plan['own_of'] ?? 0,
            $plan['makes'] ?? false,
        );
    }
}
