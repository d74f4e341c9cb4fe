<?php

declare(strict_types=1);

use App\Kinds\Databases\Http\ChooseDatabaseController;
use Illuminate\Support\Facades\Route;

Route::post('/requests/{recoveryRequest}/database', ChooseDatabaseController::class)->can('work', 'recoveryRequest');
