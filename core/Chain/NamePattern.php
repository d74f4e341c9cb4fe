<?php

declare(strict_types=1);

namespace Kaiseki\Core\Chain;

use InvalidArgumentException;
use Kaiseki\Core\Instant;

/** How the names of sets that were made elsewhere are built: "{name}.{level}.{stamp}.tar.gz". What is no field stands as it is. */
final readonly class NamePattern
{
    /** Field => what it may be. */
    private const FIELDS = [
        'name' => '.+',
        'level' => 'full|diff|incr|log|snapshot|[0-9]',
        'history' => '[A-Za-z0-9]{1,60}',
        'disk' => '[A-Za-z0-9_-]{1,60}',
        'stamp' => '\d{8}T\d{6}Z',
    ];

    private string $expression;

    public function __construct(public string $pattern)
    {
        $fields = [];
        foreach (self::FIELDS as $field => $expression) {
            if (substr_count($pattern, '{'.$field.'}') > 1) {
                throw new InvalidArgumentException("The pattern \"$pattern\" names a field twice.");
            }
            $fields['\{'.$field.'\}'] = "(?<$field>$expression)";
        }
        $this->expression = '~^'.strtr(preg_quote($pattern, '~'), $fields).'$~Ds';
    }

    /** @return array<string, string>|null field => what stands there; null if the name is not built so */
    public function fields(string $file): ?array
    {
        if (preg_match($this->expression, $file, $match) !== 1) {
            return null;
        }

        return array_filter($match, is_string(...), ARRAY_FILTER_USE_KEY);
    }

    /** When a set was captured: as its name says, and otherwise when its file was changed last. */
    public static function moment(?string $stamp, string $path): Instant
    {
        return $stamp === null ? Instant::ofMicroseconds((int) filemtime($path) * 1_000_000) : Instant::parse($stamp);
    }
}
