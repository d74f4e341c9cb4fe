<?php

declare(strict_types=1);

namespace Kaiseki\Core\Host;

use Kaiseki\Core\Files\Seen;
use Kaiseki\Core\Files\Status;

/**
 * What was seen of a path, as five strings of a message: status, where a link leads, digest, and content and access list with a mark before
 * each.
 */
final class SeenBytes
{
    public const STRINGS = 5;

    private const FIELDS = 11;

    private const IS_THERE = '.';

    /** @return array{string, string, string, string, string} */
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
            $seen->bytes === null ? '' : self::IS_THERE.$seen->bytes,
            $seen->access === null ? '' : self::IS_THERE.$seen->access,
        ];
    }

    public static function seen(string $path, string $status, string $link, string $digest, string $bytes, string $access): Seen
    {
        if (strlen($status) !== 8 * self::FIELDS) {
            return new Seen($path, null);
        }
        $fields = array_values(unpack('J*', $status) ?: []);

        return new Seen(
            $path,
            new Status(...$fields),
            $link,
            $digest === '' ? null : $digest,
            $bytes === '' ? null : substr($bytes, 1),
            access: $access === '' ? null : substr($access, 1),
        );
    }
}
