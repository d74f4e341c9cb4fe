<?php

declare(strict_types=1);

use App\Http\Controllers\AgentLineController;
use Illuminate\Support\Facades\Route;

// For agents, which have no sessions: each is known by its token (AgentLineController). Only over the line with TLS (OnlyByLine).
$numbers = ['sequence' => '[0-9]{1,15}', 'piece' => '[0-9]{1,9}'];
Route::post('/enrol', [AgentLineController::class, 'enrol']);
Route::get('/orders', [AgentLineController::class, 'orders']);
Route::get('/wanted/{sequence}', [AgentLineController::class, 'wanted'])->where($numbers);
Route::post('/piece/{sequence}/{piece}', [AgentLineController::class, 'piece'])->where($numbers);
Route::post('/done/{sequence}', [AgentLineController::class, 'done'])->where($numbers);
Route::get('/alive/{sequence}', [AgentLineController::class, 'alive'])->where($numbers);
