<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail;

/** Words that must, or must not, stand in an item. */
final readonly class ItemTerm
{
    /** @param  non-empty-list<string>  $words  as SearchWords has them */
    public function __construct(
        /** Null for anywhere in it. */
        public ?ItemField $field,
        public array $words,
        /** Whether they stand one after the other and each is whole; else each may be the beginning of a word. */
        public bool $isPhrase,
        public bool $isNegated,
    ) {
    }
}
