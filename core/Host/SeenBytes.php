<?php

declare(strict_types=1);

namespace Kaiseki\Core\Host;

use Kaiseki\Core\Files\Seen;
use Kaiseki\Core\Files\Status;

/** What was seen of a path, as four strings of a message: status, where a link leads, digest, and content with a mark before it. */
final class SeenBytes
{
    public const STRINGS = 4;

    private const FIELDS = 11;

    private const HAS_BYTES = '.';

    /** @return array{string, string, string, string} */
    public static function of(Seen $seen): array
    {
        $s = $seen->status;

        return [
            $s === null
                ? ''
                : pack(
                    'J*',
                    $s->type,
                    $s->mode,
                    $s->size,
                    $s->mtime,
                    $s->ctime,
                    $s->uid,
                    $s->gid,
                    $s->links,
                    $s->inode,
                    $s->device,
                    $s->allotted,
                ),
            $seen->link,
            (string) $seen->digest,
            $seen->bytes === null ? '' : self::HAS_BYTES.$seen->bytes,
        ];
    }

    public static function seen(string $path, string $status, string $link, string $digest, string $bytes): Seen
    {
        if (strlen($status) !== 8 * self::FIELDS) {
            return new Seen($path, null);
        }
        $fields = array_values(unpack('J*', $status) ?: []);

        return new Seen($path, new Status(...$fields), $link, $digest === '' ? null : $digest, $bytes === '' ? null : substr($bytes, 1));
    }
}
