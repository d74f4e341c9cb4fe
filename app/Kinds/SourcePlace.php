<?php

declare(strict_types=1);

namespace App\Kinds;

/** Where an original is, as a page says it. */
final readonly class SourcePlace
{
    /**
     * @param  string  $words  what stands before it: "It lives on the server"
     * @param  string  $place  the place itself
     * @param  string  $more  what else is to be said of it
     * @param  string|null  $page  the path of its own page, if it has one
     */
    public function __construct(public string $words, public string $place, public string $more = '', public ?string $page = null)
    {
    }
}
