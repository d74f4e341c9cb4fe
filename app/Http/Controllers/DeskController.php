<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Models\User;
use App\View\DeskView;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;

final class DeskController
{
    public function __invoke(Request $request): View
    {
        $user = $request->user();
        assert($user instanceof User);

        return view('desk', ['view' => new DeskView($user, $request)]);
    }
}
