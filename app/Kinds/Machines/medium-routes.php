<?php

declare(strict_types=1);

use App\Kinds\Machines\Http\MediumController;
use Illuminate\Support\Facades\Route;

// For recovery media, which have no sessions: each is known by its token (MediumController).
$number = '[0-9]{1,9}';
Route::post('/enrol', [MediumController::class, 'enrol']);
Route::get('/orders', [MediumController::class, 'orders']);
Route::get('/orders/signature', [MediumController::class, 'signature']);
Route::get('/content/{content}/{piece}', [MediumController::class, 'content'])->where(['content' => $number, 'piece' => $number]);
Route::post('/listing/{listing}/{part}/{piece}', [MediumController::class, 'listing'])
    ->where(['listing' => $number, 'piece' => $number])
    ->whereIn('part', ['entries', 'digests', 'attributes', 'sum']);
Route::post('/progress/{step}', [MediumController::class, 'progress'])->where('step', '[a-z]{1,20}');
