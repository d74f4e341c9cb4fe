<?php

declare(strict_types=1);

use App\Kinds\Machines\Http\ChooseMachineController;
use Illuminate\Support\Facades\Route;

Route::post('/requests/{recoveryRequest}/machine', ChooseMachineController::class)->can('work', 'recoveryRequest');
