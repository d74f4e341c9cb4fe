<?php

declare(strict_types=1);

use App\Kinds\Files\Http as F;
use Illuminate\Support\Facades\Route;

Route::middleware('can:work,recoveryRequest')->prefix('/requests/{recoveryRequest}')->group(function (): void {
    Route::post('/point', F\ChoosePointController::class);
    Route::post('/selection', F\ChangeSelectionController::class);
    Route::post('/destination', F\ChooseDestinationController::class);
    Route::post('/across', F\AcrossPointsController::class);
    Route::post('/how', F\ChooseHowController::class);
    Route::post('/select', F\SelectManyController::class);
    Route::post('/bin', F\TakeFromBinController::class);
    Route::post('/version', F\TakeVersionController::class);
});
