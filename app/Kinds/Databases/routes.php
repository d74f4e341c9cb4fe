<?php

declare(strict_types=1);

use App\Http\Middleware\LookAgain;
use App\Kinds\Databases\Http\ChooseDatabaseController;
use App\Kinds\Databases\Http\LookController;
use Illuminate\Support\Facades\Route;

Route::post('/requests/{recoveryRequest}/database', ChooseDatabaseController::class)->can('work', 'recoveryRequest');
Route::post('/requests/{recoveryRequest}/database/look', LookController::class)
    ->can('work', 'recoveryRequest')
    ->withoutMiddleware(LookAgain::class); // it changes nothing
