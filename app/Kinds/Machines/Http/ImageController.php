<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Http;

use App\Kinds\Machines\Order\MachineOrder;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Models\TrailSort;
use App\Models\User;
use Illuminate\Http\Request;
use Kaiseki\Core\Files\UnableToRestore;
use Symfony\Component\HttpFoundation\StreamedResponse;

/** A file that a run wrote beside others, as it lies there, sent to who asked for it; one that broke off is gone on with (RFC 9110, 14). */
final class ImageController
{
    private const PIECE = 1 << 20;

    public function __invoke(Request $request, Run $run, string $file): StreamedResponse
    {
        $written = array_column($run->outcome['written'] ?? [], null, 'file')[$file] ?? null;
        abort_if($written === null || $run->state !== 'done', 404);
        try {
            $target = MachineOrder::fromArray($run->plan)->look();
            $status = $target->status($file);
            $stream = $target->read($file);
        } catch (UnableToRestore $unable) {
            abort(409, $unable->getMessage());
        }
        $isSame = $status !== null && $status->size === $written['size'] && $status->mtime === $written['mtime'];
        abort_if($stream === null || ! $isSame, 409, 'It is not there any more as it was written.');
        $tag = '"'.substr(hash('sha256', "{$run->id} $file {$written['size']} {$written['mtime']}"), 0, 32).'"';
        [$from, $to] = self::range($request, (int) $written['size'], $tag);
        $isPart = $to - $from + 1 < $written['size'];
        abort_if($from > 0 && fseek($stream, $from) !== 0, 416, 'It can only be sent from its beginning.');
        $user = $request->user();
        $by = $user instanceof User ? $user : null;
        $which = $isPart ? ", bytes $from to $to" : '';
        TrailEntry::add("Took $file of run {$run->id}$which.", $run->request, $by, $run, TrailSort::Content);

        return new StreamedResponse(fn () => self::send($stream, $to - $from + 1), $isPart ? 206 : 200, [
            'Content-Type' => 'application/octet-stream',
            'Content-Disposition' => "attachment; filename=\"$file\"",
            'Content-Length' => (string) ($to - $from + 1),
            'Accept-Ranges' => 'bytes',
            'ETag' => $tag,
            'X-Accel-Buffering' => 'no',
        ] + ($isPart ? ['Content-Range' => "bytes $from-$to/{$written['size']}"] : []));
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
