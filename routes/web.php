<?php

declare(strict_types=1);

use Illuminate\Support\Facades\Route;

Route::get('/health', fn () => response('ok', 200, ['Content-Type' => 'text/plain']))->withoutMiddleware('web');
