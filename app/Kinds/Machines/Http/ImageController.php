<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Http;

use App\Http\SentFile;
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
        $user = $request->user();
        $by = $user instanceof User ? $user : null;

        return SentFile::response(
            $request, $stream, (int) $written['size'], $file, "{$run->id} $file {$written['size']} {$written['mtime']}",
            fn (string $part) => TrailEntry::add("Took $file of run {$run->id}$part.", $run->request, $by, $run, TrailSort::Content),
        );
    }
}
