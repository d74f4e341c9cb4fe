<?php

declare(strict_types=1);

namespace App\Kinds\Items\Run;

use App\Kinds\Items\Order\ChosenItem;
use Kaiseki\Core\Mail\ItemSort;

/** A server that has both: messages go to its mailboxes, the others to its calendars and contacts. */
final readonly class IntoServer implements ItemPlacing
{
    public function __construct(private IntoMailboxes $mailboxes, private IntoCollections $collections)
    {
    }

    public function locks(array $chosen): array
    {
        return array_merge([], ...$this->each($chosen, fn (ItemPlacing $of, array $some): array => $of->locks($some)));
    }

    public function look(array $chosen): string
    {
        return implode('; ', $this->each($chosen, fn (ItemPlacing $of, array $some): string => $of->look($some)));
    }

    public function bring(array $chosen): string
    {
        return implode('; ', $this->each($chosen, fn (ItemPlacing $of, array $some): string => $of->bring($some)));
    }

    public function check(array $chosen): string
    {
        return implode('; ', $this->each($chosen, fn (ItemPlacing $of, array $some): string => $of->check($some)));
    }

    /**
     * @template T
     *
     * @param  list<ChosenItem>  $chosen
     * @param  callable(ItemPlacing, list<ChosenItem>): T  $do
     * @return list<T>
     */
    private function each(array $chosen, callable $do): array
    {
        $isMail = fn (ChosenItem $one): bool => $one->item->sort === ItemSort::Message;
        $messages = array_values(array_filter($chosen, $isMail));
        $others = array_values(array_filter($chosen, fn (ChosenItem $one): bool => ! $isMail($one)));
        $told = $messages === [] ? [] : [$do($this->mailboxes, $messages)];

        return $others === [] ? $told : [...$told, $do($this->collections, $others)];
    }
}
