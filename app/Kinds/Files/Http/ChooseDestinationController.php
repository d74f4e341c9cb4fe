<?php

declare(strict_types=1);

namespace App\Kinds\Files\Http;

use App\Kinds\Files\Order\FilesSaid;
use App\Models\Host;
use App\Models\RecoveryRequest;
use App\Models\Right;
use App\Models\User;
use App\Rights\PersonRights;
use Illuminate\Http\RedirectResponse;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\UnsafePath;

final class ChooseDestinationController
{
    public function __invoke(DestinationRequest $request, RecoveryRequest $recoveryRequest): RedirectResponse
    {
        try {
            $folder = $request->filled('folder') ? EntryPath::of($request->string('folder')->value()) : null;
            $rules = FilesSaid::of($recoveryRequest)->conflictIn;
            if ($request->filled('rule_folder') && $request->filled('rule')) {
                $rules[rawurlencode(EntryPath::of($request->string('rule_folder')->value()))] = $request->string('rule')->value();
            }
            $name = $request->filled('rename') ? $request->string('rename')->value() : null;
            if ($name !== null && (str_contains($name, '/') || EntryPath::of($name) !== $name)) {
                return back()
                    ->withErrors(['rename' => 'A name has no slash in it, and is not . or ..'])
                    ->withInput();
            }
        } catch (UnsafePath $unsafe) {
            return back()
                ->withErrors(['folder' => $unsafe->getMessage()])
                ->withInput();
        }
        unset($rules[$request->string('drop_rule')->value()]);
        $kind = $request->string('destination')->value();
        $host = $kind === 'host' ? Host::query()->findOrFail($request->integer('host')) : null;
        $user = $request->user();
        assert($user instanceof User);
        $refused = $host === null ? null : PersonRights::of($user)->refuses(Right::Write, $host);
        if ($refused !== null) {
            return back()
                ->withErrors(['host' => $refused])
                ->withInput();
        }
        FilesSaid::of($recoveryRequest)
            ->with(
                destination: $kind,
                folder: $folder ?? ($kind === 'host' ? '' : null),
                host: $host?->id,
                conflict: $request->string('conflict')->value(),
                conflictIn: $rules,
                renameTo: rawurlencode($name ?? ''),
            )
            ->keepOn($recoveryRequest)
            ->save();

        return redirect("/requests/{$recoveryRequest->id}?show=where")->with('told', 'The order line has it.');
    }
}
