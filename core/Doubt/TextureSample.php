<?php

declare(strict_types=1);

namespace Kaiseki\Core\Doubt;

use Kaiseki\Core\Archive\ContentSink;

/**
 * Looks at a content while it passes: 4 KiB out of each 64 KiB, so that a file scrambled only here and there is noticed,
 * and at most 1 MiB of it. Entropy: H = -sum p log2 p over the bytes (C. E. Shannon, A Mathematical Theory of
 * Communication, 1948).
 */
final class TextureSample implements ContentSink
{
    private const SLICE = 4096;

    private const EVERY = 65536;

    private const MOST = 1 << 20;

    /** Of fewer bytes the entropy says little: even wholly random ones stay below 7.5 bits a byte. */
    private const LEAST = 512;

    /** How the formats begin whose bytes are evenly spread by nature: their published signatures. */
    private const DENSE = [
        "\x1f\x8b",
        "PK\x03\x04",
        "PK\x05\x06",
        'BZh',
        "\xfd7zXZ\0",
        "7z\xbc\xaf\x27\x1c",
        "\x28\xb5\x2f\xfd",
        "\x04\x22\x4d\x18",
        "\xff\xd8\xff",
        "\x89PNG\r\n\x1a\n",
        'GIF8',
        'RIFF',
        'OggS',
        'fLaC',
        'ID3',
        "\xff\xfb",
        "\x1a\x45\xdf\xa3",
        '%PDF-',
    ];

    /**
     * The content that every scanner for harmful files is to report, though it does no harm (published by EICAR); in two parts, lest this
     * file is reported.
     */
    private const TEST_FILE = ['X5O!P%@AP[4\PZX54(P^)7CC)7}$EICAR-', 'STANDARD-ANTIVIRUS-TEST-FILE!$H+H*'];

    /** At most so long with the white space that may follow. */
    private const TEST_FILE_MOST = 128;

    private string $start = '';

    private string $sample = '';

    private int $at = 0;

    /** Whether a content of so many bytes is large enough to have a texture, or may be the test file. */
    public static function isWorthwhile(int $size): bool
    {
        return $size >= self::LEAST || ($size >= strlen(implode('', self::TEST_FILE)) && $size <= self::TEST_FILE_MOST);
    }

    public function data(string $bytes): void
    {
        $length = strlen($bytes);
        if ($this->at === 0) {
            $this->start = substr($bytes, 0, self::TEST_FILE_MOST + 1);
        }
        if ($length <= self::SLICE && $this->at === 0) {
            $this->sample = $bytes; // most files
        } else {
            for (
                $slice = intdiv($this->at, self::EVERY) * self::EVERY;
                $slice < $this->at + $length && strlen($this->sample) < self::MOST;
                $slice += self::EVERY
            ) {
                $from = max(0, $slice - $this->at);
                $to = min($length, $slice + self::SLICE - $this->at);
                if ($to > $from) {
                    $this->sample .= substr($bytes, $from, $to - $from);
                }
            }
        }
        $this->at += $length;
    }

    public function hole(int $length): void
    {
        for ($zeros = str_repeat("\0", min($length, self::EVERY)); $length > 0; $length -= self::EVERY) {
            $this->data($length < self::EVERY ? substr($zeros, 0, $length) : $zeros);
        }
    }

    public function texture(): ContentTexture
    {
        if (strlen($this->sample) < self::LEAST) {
            return ContentTexture::unknown();
        }
        foreach (self::DENSE as $signature) {
            if (str_starts_with($this->start, $signature)) {
                return ContentTexture::dense();
            }
        }

        return ContentTexture::ofEntropy(self::entropy($this->sample));
    }

    public function isTestFile(): bool
    {
        return $this->at <= self::TEST_FILE_MOST && rtrim($this->start) === implode('', self::TEST_FILE);
    }

    /** Bits a byte. */
    public static function entropy(string $bytes): float
    {
        $all = strlen($bytes);
        $sum = 0.0;
        foreach (count_chars($bytes, 1) as $count) {
            $sum += $count * log($count, 2);
        }

        return $all === 0 ? 0.0 : max(0.0, log($all, 2) - $sum / $all);
    }
}
