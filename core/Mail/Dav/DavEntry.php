<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail\Dav;

/** An object of a collection as the server has it now. */
final readonly class DavEntry
{
    /** @param  string  $etag  with its quotation marks; '' where the server gave none */
    public function __construct(public string $href, public string $etag, public string $bytes)
    {
    }
}
