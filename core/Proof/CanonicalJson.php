<?php

declare(strict_types=1);

namespace Kaiseki\Core\Proof;

use InvalidArgumentException;

/** JSON in canonical form (RFC 8785), for values without fractions: what is signed must have one spelling only. */
final class CanonicalJson
{
    /** @throws InvalidArgumentException on a float, an object, or a string that is not UTF-8 */
    public static function encode(mixed $value): string
    {
        if (is_array($value)) {
            if (array_is_list($value)) {
                return '['.implode(',', array_map(self::encode(...), $value)).']';
            }

            return self::object($value);
        }
        if (is_string($value)) {
            return self::string($value);
        }
        if (is_int($value)) {
            if (abs($value) > 2 ** 53) {
                throw new InvalidArgumentException("The number $value has no exact form in JSON; write it as a string.");
            }

            return (string) $value;
        }
        if (is_bool($value) || $value === null) {
            return json_encode($value, JSON_THROW_ON_ERROR);
        }
        throw new InvalidArgumentException('Only objects, lists, strings, whole numbers, true, false and null are signed.');
    }

    /** @param  array<array-key, mixed>  $members */
    private static function object(array $members): string
    {
        // Section 3.2.3: by the UTF-16 code units of the names.
        uksort(
            $members,
            fn (int|string $a, int|string $b): int => strcmp(
                mb_convert_encoding((string) $a, 'UTF-16BE', 'UTF-8'),
                mb_convert_encoding((string) $b, 'UTF-16BE', 'UTF-8'),
            ),
        );
        $parts = [];
        foreach ($members as $name => $value) {
            $parts[] = self::string((string) $name).':'.self::encode($value);
        }

        return '{'.implode(',', $parts).'}';
    }

    /** Section 3.2.2.2: only what must be escaped is, control characters in lower-case hex. */
    private static function string(string $value): string
    {
        if (! mb_check_encoding($value, 'UTF-8')) {
            throw new InvalidArgumentException('A string is not UTF-8.');
        }

        return json_encode($value, JSON_THROW_ON_ERROR | JSON_UNESCAPED_SLASHES | JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_LINE_TERMINATORS);
    }
}
