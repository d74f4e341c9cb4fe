<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

use FFI;

/** What Btrfs compresses with: zlib, LZO in pieces of a page, or Zstandard; the last two by the libraries that everybody has for them. */
final class BtrfsPacked
{
    private const ZLIB = 1;

    private const LZO = 2;

    private const ZSTD = 3;

    private const PAGE = 4096;

    /**
     * @param  int  $most  bytes that it was
     *
     * @throws UnreadableVolume if it cannot be unpacked
     */
    public static function unpack(int $how, string $bytes, int $most): string
    {
        $unpacked = match ($how) {
            self::ZLIB => self::zlib($bytes, $most),
            self::LZO => self::lzo($bytes, $most),
            self::ZSTD => self::zstd($bytes, $most),
            default => throw UnreadableVolume::because('keeps a content in a way that is not read'),
        };

        return $unpacked ?? throw UnreadableVolume::damaged('what is compressed cannot be unpacked');
    }

    /** What stands behind its end fills up the last page. */
    private static function zlib(string $bytes, int $most): ?string
    {
        $inflate = inflate_init(ZLIB_ENCODING_DEFLATE);
        $unpacked = '';
        foreach ($inflate === false ? [] : str_split($bytes, self::PAGE) as $piece) {
            $more = @inflate_add($inflate, $piece, ZLIB_SYNC_FLUSH);
            if ($more === false || strlen($unpacked) >= $most) {
                break;
            }
            $unpacked .= $more;
        }

        return $unpacked === '' ? null : substr($unpacked, 0, $most);
    }

    private static function zstd(string $bytes, int $most): ?string
    {
        /** @var FFI|null $library */
        static $library = null;
        $library ??= self::library('libzstd.so.1', 'size_t ZSTD_findFrameCompressedSize(const void *src, size_t size);
            size_t ZSTD_decompress(void *dst, size_t capacity, const void *src, size_t size); unsigned ZSTD_isError(size_t code);');
        $frame = $library->ZSTD_findFrameCompressedSize($bytes, strlen($bytes));
        if ($library->ZSTD_isError($frame) !== 0) {
            return null;
        }
        $room = $library->new("char[$most]");
        $length = $library->ZSTD_decompress(FFI::addr($room[0]), $most, $bytes, $frame);

        return $library->ZSTD_isError($length) !== 0 ? null : FFI::string(FFI::addr($room[0]), $length);
    }

    /** All of its bytes, then pieces with theirs, none of whose heads goes over the end of a page. */
    private static function lzo(string $bytes, int $most): ?string
    {
        /** @var FFI|null $library */
        static $library = null;
        $library ??= self::library('liblzo2.so.2', 'int lzo1x_decompress_safe(const char *src, size_t size, char *dst, size_t *got,
            void *none);');
        $end = min(strlen($bytes), unpack('V', str_pad($bytes, 4, "\0"))[1] ?? 0);
        $all = '';
        for ($at = 4; $at + 4 <= $end && strlen($all) < $most; $at += 4 + $length) {
            $at += self::PAGE - $at % self::PAGE < 4 ? self::PAGE - $at % self::PAGE : 0;
            $length = unpack('V', str_pad(substr($bytes, $at, 4), 4, "\0"))[1] ?? 0;
            $piece = substr($bytes, $at + 4, $length);
            $room = $library->new('char['.self::PAGE.']');
            $got = $library->new('size_t');
            $got->cdata = self::PAGE;
            if (strlen($piece) !== $length || $library->lzo1x_decompress_safe($piece, $length, $room, FFI::addr($got), null) !== 0) {
                return null;
            }
            $all .= FFI::string(FFI::addr($room[0]), $got->cdata);
        }

        return substr($all, 0, $most);
    }

    private static function library(string $name, string $functions): FFI
    {
        try {
            return FFI::cdef($functions, $name);
        } catch (FFI\Exception) {
            throw UnreadableVolume::because("keeps a content compressed, and the library $name, which unpacks it, cannot be used here");
        }
    }
}
