<?php

declare(strict_types=1);

use App\Models\RecoveryRequest;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\Route;

Route::post('/requests/{recoveryRequest}/lid', function (Request $request, RecoveryRequest $recoveryRequest) {
    $recoveryRequest->say('jars', 1, ['to' => $request->string('to')->value()])->save();

    return redirect("/requests/{$recoveryRequest->id}?show=where");
})->can('work', 'recoveryRequest');
