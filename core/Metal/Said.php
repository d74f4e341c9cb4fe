<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

/** A document from outside, asked for one value after the other: each is what it must be, or told with its place. */
final readonly class Said
{
    /** @param  array<array-key, mixed>  $values */
    private function __construct(private array $values, private string $where)
    {
    }

    /** @throws UnfitLayout if it is no such document */
    public static function ofJson(string $json, int $most): self
    {
        $values = strlen($json) > $most ? null : json_decode($json, true, 16, JSON_BIGINT_AS_STRING);

        return is_array($values) ? new self($values, '') : throw UnfitLayout::at('The document', "is no JSON of at most $most bytes.");
    }

    /** @param  array<array-key, mixed>  $values */
    public static function of(array $values): self
    {
        return new self($values, '');
    }

    /** @throws UnfitLayout */
    public function number(string $key, int $least, int $most, ?int $default = null): int
    {
        $value = $this->values[$key] ?? $default;

        return is_int($value) && $value >= $least && $value <= $most
            ? $value
            : throw UnfitLayout::at($this->where.$key, "must be a whole number from $least to $most.");
    }

    /**
     * @param  string  $pattern  of all of it
     *
     * @throws UnfitLayout
     */
    public function text(string $key, string $pattern, ?string $default = null): string
    {
        $value = $this->values[$key] ?? $default;

        return is_string($value) && preg_match($pattern, $value) === 1 && mb_check_encoding($value, 'UTF-8')
            ? $value
            : throw UnfitLayout::at($this->where.$key, 'is not what it can be'.(is_string($value) ? ': '.self::shown($value) : '').'.');
    }

    /** A text of people, with anything in it that can be shown. */
    public function words(string $key, int $most, string $default = ''): string
    {
        $value = $this->values[$key] ?? $default;

        return is_string($value) ? trim((string) preg_replace('/[\p{C}]+/u', ' ', mb_strcut(mb_scrub($value), 0, $most))) : $default;
    }

    public function flag(string $key): bool
    {
        return ($this->values[$key] ?? false) === true;
    }

    /**
     * @return list<self>
     *
     * @throws UnfitLayout
     */
    public function each(string $key, int $most): array
    {
        $values = $this->values[$key] ?? [];
        if (! is_array($values) || ! array_is_list($values) || count($values) > $most) {
            throw UnfitLayout::at($this->where.$key, "must be a list of at most $most.");
        }
        $each = [];
        foreach ($values as $number => $value) {
            $where = "$this->where$key.$number";
            $each[] = is_array($value) ? new self($value, "$where.") : throw UnfitLayout::at($where, 'must be an object.');
        }

        return $each;
    }

    /**
     * @return list<string>
     *
     * @throws UnfitLayout
     */
    public function texts(string $key, string $pattern, int $most): array
    {
        $values = $this->values[$key] ?? [];
        $isList = is_array($values) && array_is_list($values) && count($values) <= $most;
        foreach ($isList ? $values : [null] as $value) {
            if (! is_string($value) || preg_match($pattern, $value) !== 1) {
                throw UnfitLayout::at($this->where.$key, "must be a list of at most $most texts of their kind.");
            }
        }

        return $isList ? $values : [];
    }

    /**
     * Names under which something stands; none where nothing stands there.
     *
     * @return list<string>
     *
     * @throws UnfitLayout
     */
    public function keys(string $key, string $pattern, int $most): array
    {
        $value = $this->values[$key] ?? [];
        $names = is_array($value) && count($value) <= $most ? array_map(strval(...), array_keys($value)) : null;
        foreach ($names ?? throw UnfitLayout::at($this->where.$key, "must be an object of at most $most.") as $name) {
            preg_match($pattern, $name) === 1
                || throw UnfitLayout::at($this->where.$key, 'has a name that none has: '.self::shown($name).'.');
        }

        return $names;
    }

    /** @throws UnfitLayout */
    public function within(string $key): self
    {
        $value = $this->values[$key] ?? [];

        return is_array($value) ? new self($value, "$this->where$key.") : throw UnfitLayout::at($this->where.$key, 'must be an object.');
    }

    private static function shown(string $value): string
    {
        return '"'.mb_strcut(addcslashes(mb_scrub($value), "\0..\37\177\""), 0, 60).'"';
    }
}
