<?php

declare(strict_types=1);

namespace Kaiseki\Core\Archive;

/** BLAKE2b with 256 bits (RFC 7693) over a content. */
final class ContentDigest implements ContentSink
{
    private const ZEROS = 1 << 20;

    private string $state;

    public function __construct()
    {
        $this->state = sodium_crypto_generichash_init('', 32);
    }

    public function data(string $bytes): void
    {
        sodium_crypto_generichash_update($this->state, $bytes);
    }

    public function hole(int $length): void
    {
        $zeros = str_repeat("\0", min($length, self::ZEROS));
        for ($left = $length; $left > 0; $left -= strlen($zeros)) {
            $this->data($left < strlen($zeros) ? substr($zeros, 0, $left) : $zeros);
        }
    }

    /** 32 bytes. */
    public function finish(): string
    {
        return sodium_crypto_generichash_final($this->state, 32);
    }

    public static function of(string $bytes): string
    {
        return sodium_crypto_generichash($bytes, '', 32);
    }

    /** Of a whole file, 32 bytes; null if it cannot be opened. */
    public static function ofFile(string $path): ?string
    {
        $file = @fopen($path, 'rb');
        if ($file === false) {
            return null;
        }
        $digest = self::ofStream($file);
        fclose($file);

        return $digest;
    }

    /**
     * Of what is left in a stream, 32 bytes.
     *
     * @param  resource  $stream
     */
    public static function ofStream($stream): string
    {
        $digest = new self;
        while (! feof($stream)) {
            $digest->data((string) fread($stream, 1 << 18));
        }

        return $digest->finish();
    }
}
