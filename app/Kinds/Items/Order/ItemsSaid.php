<?php

declare(strict_types=1);

namespace App\Kinds\Items\Order;

use App\Kinds\Items\Items;
use App\Models\RecoveryRequest;

/** What was said of an order of items, as it is kept with its request. */
final readonly class ItemsSaid
{
    private const VERSION = 1;

    public const DESTINATIONS = ['own', 'mailbox', 'files', 'send'];

    /**
     * @param  array<string, mixed>  $selection  see ItemSelection::toArray()
     * @param  string  $destination  own: the mailbox and the folder of each; mailbox: another one; files: a new folder of
     *                                   files; send: a message to sendTo
     * @param  string|null  $server  the name of a mail server; null for the one that the mailboxes are on
     * @param  bool  $awaits  whether a mailbox that is not there is waited for
     * @param  int  $ownOf  the person who brings back their own by it; 0 for an order of the desk
     * @param  string  $folder  of the mailbox; '' for the folder that each came from
     */
    public function __construct(
        public array $selection = [],
        public string $destination = 'own',
        public ?string $server = null,
        public string $mailbox = '',
        public string $folder = '',
        public string $conflict = 'missing-only',
        public string $form = 'eml',
        public string $sendTo = '',
        public bool $awaits = false,
        public int $ownOf = 0,
    ) {
    }

    public static function of(RecoveryRequest $request): self
    {
        return new self(...array_intersect_key($request->saidOf(Items::NAME), get_class_vars(self::class)));
    }

    /** The same with other values of some of its fields. */
    public function with(mixed ...$changes): self
    {
        return new self(...$changes + get_object_vars($this));
    }

    public function selection(): ItemSelection
    {
        return ItemSelection::fromArray($this->selection);
    }

    /** Takes the place of what was said before; the request is not saved yet. */
    public function keepOn(RecoveryRequest $request): RecoveryRequest
    {
        return $request->say(Items::NAME, self::VERSION, get_object_vars($this));
    }
}
