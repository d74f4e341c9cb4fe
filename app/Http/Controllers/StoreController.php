<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Models\User;
use App\View\StoresView;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;

final class StoreController
{
    public function __invoke(Request $request): View
    {
        $user = $request->user();
        assert($user instanceof User);

        return view('stores.index', ['view' => new StoresView($user), 'zone' => $user->zone]);
    }
}
