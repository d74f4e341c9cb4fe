<?php

declare(strict_types=1);

namespace Kaiseki\Core\Chain;

use InvalidArgumentException;

/** One JSON object of a sheet, read field by field; whatever is wrong is said with its place. */
final readonly class SheetEntry
{
    /** @param  array<mixed>  $fields */
    private function __construct(private array $fields, /** such as: sets[3] "I2" */ public string $place)
    {
    }

    /** @throws InvalidArgumentException if it is no JSON object */
    public static function of(mixed $value, string $place): self
    {
        if (! is_array($value) || ($value !== [] && array_is_list($value))) {
            throw new InvalidArgumentException(ucfirst($place).' is not a JSON object.');
        }

        return new self($value, $place);
    }

    public function named(string $name): self
    {
        return new self($this->fields, "{$this->place} $name");
    }

    /** @throws InvalidArgumentException */
    public function refuse(string $because): never
    {
        throw new InvalidArgumentException(ucfirst($this->place)." $because.");
    }

    /** Whether the field is there, and not null. */
    public function has(string $key): bool
    {
        return isset($this->fields[$key]);
    }

    /** @return list<self> */
    public function listOf(string $key): array
    {
        $list = $this->fields[$key] ?? [];
        if (! is_array($list) || ! array_is_list($list)) {
            $this->refuse("has \"$key\", but it is not a list");
        }
        $place = $this->place === 'the sheet' ? '' : "{$this->place}, ";

        return array_map(fn (mixed $item, int $i): self => self::of($item, "$place{$key}[$i]"), $list, array_keys($list));
    }

    public function text(string $key, ?string $else = null): string
    {
        $value = $this->fields[$key] ?? $else ?? $this->refuse("has no \"$key\"");
        if (! is_string($value) && ! is_int($value)) {
            $this->refuse("has a \"$key\" that is not text");
        }
        if ($value === '' && $else !== '') {
            $this->refuse("has an empty \"$key\"");
        }

        return (string) $value;
    }

    /** @return list<string> one text, or a list of them */
    public function texts(string $key): array
    {
        $value = $this->fields[$key] ?? [];
        $list = is_array($value) ? array_values($value) : [$value];
        foreach ($list as $item) {
            if ((! is_string($item) && ! is_int($item)) || $item === '') {
                $this->refuse("has a \"$key\" that is not text, nor a list of texts");
            }
        }

        return array_values(array_map(strval(...), $list));
    }

    /** 0 or more; above 0 if asked so. */
    public function number(string $key, ?float $else, bool $aboveZero = false): float
    {
        $value = $this->fields[$key] ?? $else ?? $this->refuse("has no \"$key\"");
        if ((! is_int($value) && ! is_float($value)) || $value < 0 || ($aboveZero && $value == 0)) {
            $this->refuse("needs a $key ".($aboveZero ? 'above 0' : 'of 0 or more'));
        }

        return (float) $value;
    }

    /** A whole number of 0 or more; 0 if it is left out. */
    public function whole(string $key): int
    {
        $value = $this->number($key, 0.0);
        if (floor($value) !== $value || $value > PHP_INT_MAX) {
            $this->refuse("has a \"$key\" that is not a whole number");
        }

        return (int) ($this->fields[$key] ?? 0);
    }

    public function flag(string $key, bool $else): bool
    {
        $value = $this->fields[$key] ?? $else;
        if (! is_bool($value)) {
            $this->refuse("has a \"$key\" that is neither true nor false");
        }

        return $value;
    }
}
