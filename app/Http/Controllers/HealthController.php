<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use Illuminate\Http\Response;
use Illuminate\Support\Facades\DB;

/** Answers "ok" when the application and its database work. */
final class HealthController
{
    public function __invoke(): Response
    {
        DB::select('SELECT 1');

        return response('ok', 200, ['Content-Type' => 'text/plain']);
    }
}
