<?php

declare(strict_types=1);

namespace App\Kinds\Files\Http;

use App\Kinds\Files\Order\Worksheet;
use App\Models\RecoveryRequest;
use App\Trees\Places\LibraryRecords;
use Illuminate\Http\RedirectResponse;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\UnsafePath;

/** Adds a path to the selection or takes it out. Paths come percent-encoded, since they are bytes. */
final class ChangeSelectionController
{
    public function __invoke(SelectionRequest $request, RecoveryRequest $recoveryRequest): RedirectResponse
    {
        $sheet = new Worksheet($recoveryRequest);
        $selection = $sheet->selection;
        try {
            $path = EntryPath::of(rawurldecode($request->string('path')->value()));
        } catch (UnsafePath $unsafe) {
            return back()->withErrors(['path' => $unsafe->getMessage()]);
        }
        $selection = match ($request->string('do')->value()) {
            'clear' => [],
            'only' => [$path],
            'with-record' => [...$selection, ...($sheet->point === null ? [] : (new LibraryRecords($sheet->point))->beside($selection))],
            default => in_array($path, $selection, true) ? array_diff($selection, [$path]) : EntryPath::outermost([...$selection, $path]),
        };
        $sheet->said->select(array_values($selection))->keepOn($recoveryRequest)->save();
        $folder = $request->string('folder')->value();

        return redirect(
            "/requests/{$recoveryRequest->id}?show=what".
                ($folder === '' ? '' : "&folder=$folder").
                ($request->filled('page') ? '&page='.$request->integer('page') : ''),
        );
    }
}
