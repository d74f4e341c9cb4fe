<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail\Dav;

/** What a server tells of a collection since it was asked before (RFC 6578). */
final readonly class DavChanges
{
    /**
     * @param  string  $token  to ask by the next time
     * @param  array<string, string>  $there  path, percent-encoded => etag: what is new or another; all of it where nothing was told before
     * @param  list<string>  $gone  paths
     */
    public function __construct(public string $token, public array $there, public array $gone)
    {
    }

    /**
     * Everything that is there now.
     *
     * @param  array<string, string>  $before  path => etag, as it was when the token was given
     * @return array<string, string>
     */
    public function after(array $before): array
    {
        return array_diff_key($this->there + $before, array_flip($this->gone));
    }
}
