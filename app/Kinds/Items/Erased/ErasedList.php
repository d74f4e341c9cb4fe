<?php

declare(strict_types=1);

namespace App\Kinds\Items\Erased;

use App\Kinds\Items\Catalog\FoundItem;
use App\Kinds\Items\Order\ChosenItem;
use Kaiseki\Core\Mail\MailAddress;

/** Which items are on the list of what had to be erased. */
final readonly class ErasedList
{
    /**
     * @param  array<string, string>  $addresses  in small letters => why
     * @param  array<string, string>  $items  identity in hex => why
     */
    private function __construct(private array $addresses, private array $items)
    {
    }

    public static function now(): self
    {
        $of = fn (string $what): array => ErasedThing::query()->where('what', $what)->pluck('reason', 'value')->all();

        return new self($of(ErasedThing::ADDRESS), $of(ErasedThing::ITEM));
    }

    /** Null for one that is not on it. */
    public function why(FoundItem $item): ?string
    {
        $why = $this->items[bin2hex($item->identity)] ?? null;
        foreach ($why === null && $this->addresses !== [] ? self::addressesOf($item) : [] as $address) {
            $why ??= isset($this->addresses[$address]) ? "it names $address: {$this->addresses[$address]}" : null;
        }

        return $why;
    }

    /**
     * @param  list<ChosenItem>  $chosen
     * @return array{list<ChosenItem>, list<array{ChosenItem, string}>} those that may come back; those that stay away, and why
     */
    public function apart(array $chosen): array
    {
        $may = $stays = [];
        foreach ($chosen as $one) {
            $why = $this->why($one->item);
            if ($why === null) {
                $may[] = $one;
            } else {
                $stays[] = [$one, $why];
            }
        }

        return [$may, $stays];
    }

    /** @return list<string> in small letters: whoever wrote it, got it, or is asked; of a contact its own */
    private static function addressesOf(FoundItem $item): array
    {
        preg_match_all('/[^\s<>,;"]+@[^\s<>,;"]+/u', "{$item->sender} {$item->recipients}", $named);
        $more = array_map(fn (MailAddress $of): string => $of->address, [...$item->details->to, ...$item->details->cc]);

        return array_values(array_unique(array_map(mb_strtolower(...), [...$named[0], ...$more])));
    }
}
