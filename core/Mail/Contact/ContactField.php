<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail\Contact;

/** What a contact says, as a card shows it. */
final readonly class ContactField
{
    /**
     * @param  string  $field  "Telephone"
     * @param  string  $kind  of its kinds the one that it is: "home", "mobile"; nothing if it does not say
     */
    public function __construct(public string $field, public string $kind, public string $text)
    {
    }
}
