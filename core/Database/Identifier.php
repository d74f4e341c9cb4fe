<?php

declare(strict_types=1);

namespace Kaiseki\Core\Database;

use InvalidArgumentException;

/** Names of schemas and tables as they stand in statements. */
final class Identifier
{
    /** In backticks, whatever is in it. */
    public static function quoted(string $name): string
    {
        return '`'.str_replace('`', '``', $name).'`';
    }

    /**
     * A name that somebody gives to a new schema.
     *
     * @throws InvalidArgumentException
     */
    public static function given(string $name): string
    {
        if (preg_match('/^[^\x00-\x1f\/\\\\.`]{1,64}$/Du', $name) !== 1 || str_ends_with($name, ' ')) {
            throw new InvalidArgumentException(
                "\"$name\" cannot be the name of a schema: at most 64 characters, without . / \\ ` and control characters.",
            );
        }
        if (in_array(strtolower($name), ['mysql', 'information_schema', 'performance_schema', 'sys'], true)) {
            throw new InvalidArgumentException("\"$name\" belongs to the server itself.");
        }

        return $name;
    }
}
