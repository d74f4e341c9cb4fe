<?php

declare(strict_types=1);

namespace Kaiseki\Core\Protect;

use InvalidArgumentException;
use Kaiseki\Core\Catalog\Shown;

/** What the record beside a set says of one of its files; it comes from outside, and names nothing but a file of its own folder. */
final readonly class PartRecord
{
    /** More are none of ours. */
    private const MOST = 10_000;

    public function __construct(
        /** '' for the only one. */
        public string $name,
        /** Its file beside the record. */
        public string $file,
        public int $bytes,
        /** BLAKE2b-256, hex. */
        public string $digest,
    ) {
    }

    /** @return array{name: string, file: string, bytes: int, blake2b_256: string} */
    public function toArray(): array
    {
        return ['name' => $this->name, 'file' => $this->file, 'bytes' => $this->bytes, 'blake2b_256' => $this->digest];
    }

    /**
     * @param  array<mixed>  $record  a whole record as it was decoded
     * @return list<self> in their order; none where it does not say, as those of format 1
     *
     * @throws InvalidArgumentException if that is no list of parts
     */
    public static function all(array $record): array
    {
        $said = $record['parts'] ?? [];
        if (! is_array($said) || ! array_is_list($said) || count($said) > self::MOST) {
            throw new InvalidArgumentException('The record beside the set has no proper list of parts.');
        }
        $parts = [];
        foreach ($said as $one) {
            $part = self::of(is_array($one) ? $one : []);
            if (isset($parts[$part->name]) || (count($said) > 1 && $part->name === '')) {
                throw new InvalidArgumentException(
                    'The record beside the set names a part twice, or not at all: "'.Shown::name($part->name).'".',
                );
            }
            $parts[$part->name] = $part;
        }

        return array_values($parts);
    }

    /** @param  array<mixed>  $said */
    private static function of(array $said): self
    {
        [$name, $file, $bytes, $digest] = [
            $said['name'] ?? null,
            $said['file'] ?? null,
            $said['bytes'] ?? null,
            $said['blake2b_256'] ?? null,
        ];
        $isPlain = fn (mixed $word): bool => is_string($word) &&
            strlen($word) <= 200 &&
            mb_check_encoding($word, 'UTF-8') &&
            preg_match('~[/\x00-\x1f\x7f]~', $word) !== 1;
        if (! $isPlain($name) || ! $isPlain($file) || $file === '' || $file[0] === '.') {
            throw new InvalidArgumentException('The record beside the set names a part or its file in a way that none is named.');
        }
        if (! is_int($bytes) || $bytes < 0 || ! is_string($digest) || preg_match('/^[0-9a-f]{64}$/D', $digest) !== 1) {
            throw new InvalidArgumentException(
                'The record beside the set does not say how large "'.Shown::name($file).'" is and what its digest is.',
            );
        }

        return new self($name, $file, $bytes, $digest);
    }
}
