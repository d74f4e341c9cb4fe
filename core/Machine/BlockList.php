<?php

declare(strict_types=1);

namespace Kaiseki\Core\Machine;

use Closure;
use Generator;
use Kaiseki\Core\UnableToRead;
use Kaiseki\Core\UnableToWrite;

/**
 * What one set holds of one disk, block by block, as a file: a line that says what it is, the size of the disk, an entry for each
 * block or run of zeros (number, state, and digest or count) in order, and a digest of all that. It is read as it goes, so that
 * it may be of any length.
 */
final class BlockList
{
    private const HEAD = "kaiseki blocks 1\n";

    private const ENTRY = 41;

    private const AT_ONCE = 2000;

    /** @param  resource  $file  behind its head */
    private function __construct(private $file, public readonly int $size, private readonly int $entries)
    {
    }

    /**
     * Writes a list whole, or not at all.
     *
     * @param  iterable<BlockRun>  $runs  in order
     *
     * @throws UnableToWrite
     */
    public static function write(string $path, int $size, iterable $runs): void
    {
        $partial = "$path.partial";
        $file = @fopen($partial, 'wb') ?: throw UnableToWrite::full($path);
        $state = sodium_crypto_generichash_init('', 32);
        $put = function (string $bytes) use ($file, $path, &$state): void {
            sodium_crypto_generichash_update($state, $bytes);
            if (fwrite($file, $bytes) !== strlen($bytes)) {
                throw UnableToWrite::full($path);
            }
        };
        try {
            self::writeAll($put, $size, $runs);
            $digest = sodium_crypto_generichash_final($state, 32);
            if (fwrite($file, $digest) !== 32 || ! fclose($file) || ! rename($partial, $path)) {
                throw UnableToWrite::full($path);
            }
        } finally {
            is_file($partial) && @unlink($partial);
        }
    }

    /**
     * @param  Closure(string): void  $put
     * @param  iterable<BlockRun>  $runs
     */
    private static function writeAll(Closure $put, int $size, iterable $runs): void
    {
        $put(self::HEAD.pack('J', $size));
        $bytes = '';
        foreach ($runs as $run) {
            $bytes .= pack('JC', $run->number, $run->state->value).($run->digest === '' ? pack('Jx24', $run->count) : $run->digest);
            if (strlen($bytes) >= self::ENTRY * self::AT_ONCE) {
                $put($bytes);
                $bytes = '';
            }
        }
        $put($bytes);
    }

    /**
     * Whether the file is as it was written is found out before anything of it is believed.
     *
     * @throws UnableToRead
     */
    public static function open(string $path): self
    {
        $file = @fopen($path, 'rb') ?: throw UnableToRead::open($path, 'The list of blocks');
        $length = fstat($file)['size'] ?? 0;
        $body = $length - 32 - strlen(self::HEAD) - 8;
        $state = sodium_crypto_generichash_init('', 32);
        for ($left = max(0, $length - 32); $left > 0; $left -= strlen($bytes)) {
            $bytes = (string) fread($file, min(1 << 20, $left));
            if ($bytes === '') {
                break;
            }
            sodium_crypto_generichash_update($state, $bytes);
        }
        $isRight = $body >= 0 && $body % self::ENTRY === 0 && fread($file, 32) === sodium_crypto_generichash_final($state, 32);
        rewind($file);
        if (! $isRight || fread($file, strlen(self::HEAD)) !== self::HEAD) {
            throw UnableToRead::open($path, 'The list of blocks');
        }

        return new self($file, unpack('J', (string) fread($file, 8))[1] ?? 0, intdiv($body, self::ENTRY));
    }

    /**
     * In order, from the first that reaches a block or one behind it.
     *
     * @return Generator<BlockRun>
     */
    public function runs(int $from = 0): Generator
    {
        for ($at = $from === 0 ? 0 : $this->search($from); $at < $this->entries; $at += self::AT_ONCE) {
            $bytes = $this->entries($at, min(self::AT_ONCE, $this->entries - $at));
            for ($i = 0, $length = strlen($bytes); $i < $length; $i += self::ENTRY) {
                yield self::run($bytes, $i);
            }
        }
    }

    private static function run(string $bytes, int $at): BlockRun
    {
        $number = unpack('J', $bytes, $at)[1] ?? 0;
        $state = BlockState::from(ord($bytes[$at + 8]));

        return $state === BlockState::Here || $state === BlockState::Partly
            ? new BlockRun($number, $state, 1, substr($bytes, $at + 9, 32))
            : new BlockRun($number, $state, unpack('J', $bytes, $at + 9)[1] ?? 1);
    }

    /** The place in the list of the first run that reaches a block or one behind it, by halving. */
    private function search(int $number): int
    {
        [$least, $most] = [0, $this->entries];
        while ($least < $most) {
            $middle = intdiv($least + $most, 2);
            $run = self::run($this->entries($middle, 1), 0);
            if ($run->number + $run->count <= $number) {
                $least = $middle + 1;
            } else {
                $most = $middle;
            }
        }

        return $least;
    }

    /** Where they are is said each time: several may go through one list at once. */
    private function entries(int $first, int $count): string
    {
        fseek($this->file, strlen(self::HEAD) + 8 + $first * self::ENTRY);

        return (string) stream_get_contents($this->file, $count * self::ENTRY);
    }
}
