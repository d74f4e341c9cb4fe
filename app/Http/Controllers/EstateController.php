<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Models\User;
use App\View\EstateView;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;

/** The workloads, and how they stand. */
final class EstateController
{
    public function __invoke(Request $request): View
    {
        $user = $request->user();
        assert($user instanceof User);

        return view('estate', ['view' => new EstateView($user, $request), 'zone' => $user->zone]);
    }
}
