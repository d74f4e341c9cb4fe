<?php

declare(strict_types=1);

namespace App\Kinds\Files\Http;

use App\Kinds\Files\Order\Destination;
use App\Kinds\Files\Order\FilesSaid;
use App\Models\RecoveryRequest;
use Illuminate\Http\RedirectResponse;

final class ChooseHowController
{
    public function __invoke(HowRequest $request, RecoveryRequest $recoveryRequest): RedirectResponse
    {
        $said = FilesSaid::of($recoveryRequest);
        $isOnly = $request->string('comes')->value() === 'permissions';
        // To where they are: nothing would stand in a new folder, or in a download.
        $destination = $isOnly && ! Destination::of($recoveryRequest)->isInUse() ? 'own-place' : $said->destination;
        $said->with(flat: $request->string('layout')->value() === 'flat', permissionsOnly: $isOnly, destination: $destination)
            ->keepOn($recoveryRequest)
            ->save();

        return redirect("/requests/{$recoveryRequest->id}?show=how")->with('told', 'The order line has it.');
    }
}
