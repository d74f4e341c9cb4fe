<?php

declare(strict_types=1);

namespace App\Kinds\Files\Http;

use App\Kinds\Files\Order\FilesSaid;
use App\Models\RecoveryRequest;
use Illuminate\Http\RedirectResponse;

final class ChooseHowController
{
    public function __invoke(HowRequest $request, RecoveryRequest $recoveryRequest): RedirectResponse
    {
        FilesSaid::of($recoveryRequest)->with(flat: $request->string('layout')->value() === 'flat')->keepOn($recoveryRequest)->save();

        return redirect("/requests/{$recoveryRequest->id}?show=how")->with('told', 'The order line has it.');
    }
}
