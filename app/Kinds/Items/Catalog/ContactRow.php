<?php

declare(strict_types=1);

namespace App\Kinds\Items\Catalog;

use Kaiseki\Core\Mail\Contact\ContactCard;
use Kaiseki\Core\Mail\ItemField;
use Kaiseki\Core\Mail\ItemSort;

/** What the catalog says of a contact. */
final class ContactRow
{
    /** @param  int  $receivedAt  when it was written, seconds since 1970 */
    public static function of(ContactCard $card, string $identity, int $receivedAt): ItemRow
    {
        $reached = [...$card->mails(), ...$card->phones()];

        return new ItemRow(
            ItemSort::Contact,
            $identity,
            $card->uid(),
            '',
            $card->name(),
            $card->organisation(),
            implode(', ', $reached),
            null,
            $receivedAt,
            strlen($card->bytes),
            $card->picture() === '' ? 0 : 1,
            new ItemDetails([], [], [], $card->wrong),
            [
                ItemField::From->value => $card->organisation(),
                ItemField::To->value => implode(' ', [...$reached, ...ContactCard::joined($card->phones())]),
                ItemField::Subject->value => $card->name(),
                ItemField::Place->value => implode(' ', $card->addresses()),
            ],
        );
    }
}
