<?php

declare(strict_types=1);

namespace App\Kinds\Items\Http;

use App\Hosts\Hosts;
use App\Http\SentFile;
use App\Kinds\Items\Order\ItemsOrder;
use App\Kinds\Items\Run\WrittenZip;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Models\TrailSort;
use App\Models\User;
use App\Trees\Run\Targets;
use Illuminate\Http\Request;
use Kaiseki\Core\Files\UnableToRestore;
use Symfony\Component\HttpFoundation\StreamedResponse;

/** The zip that a run of items wrote, sent to an operator, or to the one who asked for it. */
final class TakeZipController
{
    public function __invoke(Request $request, Run $run): StreamedResponse
    {
        $zip = $run->state === 'done' ? WrittenZip::of($run->outcome ?? []) : null;
        abort_if($zip === null, 404);
        try {
            $target = ItemsOrder::fromArray($run->plan)->target;
            $folder = Hosts::look(null, $target, Targets::root(null, $target));
            $stream = $zip->isIn($folder) ? $folder->read($zip->name) : null;
        } catch (UnableToRestore $unable) {
            abort(409, $unable->getMessage());
        }
        abort_if($stream === null, 409, 'It is not there any more as it was written.');
        $user = $request->user();
        $by = $user instanceof User ? $user : null;

        return SentFile::response(
            $request, $stream, $zip->size, $zip->name, "{$run->id} {$zip->name} {$zip->size} {$zip->mtime}",
            fn (string $part) => TrailEntry::add("Took {$zip->name}$part.", $run->request, $by, $run, TrailSort::Content),
        );
    }
}
