<?php

declare(strict_types=1);

namespace App\Http;

use Closure;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\StreamedResponse;

/** A file that lies somewhere, sent to who asked for it; one that broke off is gone on with (RFC 9110, 14). */
final class SentFile
{
    private const PIECE = 1 << 20;

    /**
     * @param  resource  $stream  standing at its beginning
     * @param  string  $is  what tells this content from any other of that name
     * @param  Closure(string): void  $told  told which part of it is sent, in words; '' for all of it
     */
    public static function response(Request $request, $stream, int $size, string $name, string $is, Closure $told): StreamedResponse
    {
        $tag = '"'.substr(hash('sha256', $is), 0, 32).'"';
        [$from, $to] = self::range($request, $size, $tag);
        $isPart = $to - $from + 1 < $size;
        abort_if($from > 0 && fseek($stream, $from) !== 0, 416, 'It can only be sent from its beginning.');
        $told($isPart ? ", bytes $from to $to" : '');

        return new StreamedResponse(fn () => self::send($stream, $to - $from + 1), $isPart ? 206 : 200, [
            'Content-Type' => 'application/octet-stream',
            'Content-Disposition' => "attachment; filename=\"$name\"",
            'Content-Length' => (string) ($to - $from + 1),
            'Accept-Ranges' => 'bytes',
            'ETag' => $tag,
            'X-Accel-Buffering' => 'no',
        ] + ($isPart ? ['Content-Range' => "bytes $from-$to/$size"] : []));
    }

    /** @return array{int, int} the first and the last byte that are wanted; one range, or all */
    private static function range(Request $request, int $size, string $tag): array
    {
        $said = preg_match('/^bytes=(\d{0,18})-(\d{0,18})$/D', (string) $request->header('Range'), $m) === 1 ? [$m[1], $m[2]] : ['', ''];
        if ($request->header('If-Range', $tag) !== $tag || $said === ['', '']) {
            return [0, $size - 1];
        }
        [$from, $to] = $said[0] === ''
            ? [max(0, $size - (int) $said[1]), $size - 1]
            : [(int) $said[0], $said[1] === '' ? $size - 1 : min($size - 1, (int) $said[1])];
        abort_if($from > $to, 416, 'There is no such part of it.', ['Content-Range' => "bytes */$size"]);

        return [$from, $to];
    }

    /** @param  resource  $stream */
    private static function send($stream, int $left): void
    {
        set_time_limit(0);
        while ($left > 0 && ($bytes = fread($stream, min(self::PIECE, $left))) !== false && $bytes !== '' && connection_aborted() === 0) {
            echo $bytes;
            flush();
            $left -= strlen($bytes);
        }
    }
}
