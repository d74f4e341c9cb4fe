<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Models\User;
use App\View\UseView;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;

/** How much lies where. */
final class UseController
{
    public function __invoke(Request $request): View
    {
        $user = $request->user();
        assert($user instanceof User);

        return view('stores.use', ['view' => new UseView($user)]);
    }
}
