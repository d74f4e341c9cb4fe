<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Requests\DestinationRequest;
use App\Models\RecoveryRequest;
use Illuminate\Http\RedirectResponse;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\UnsafePath;

final class ChooseDestinationController
{
    public function __invoke(DestinationRequest $request, RecoveryRequest $recoveryRequest): RedirectResponse
    {
        try {
            $folder = $request->filled('folder') ? EntryPath::of($request->string('folder')->value()) : null;
        } catch (UnsafePath $unsafe) {
            return back()->withErrors(['folder' => $unsafe->getMessage()])->withInput();
        }
        $recoveryRequest->update([
            'destination' => $request->string('destination')->value(), 'destination_folder' => $folder,
            'conflict' => $request->string('conflict')->value(),
        ]);

        return redirect("/requests/{$recoveryRequest->id}?show=where")->with('told', 'The order line has it.');
    }
}
