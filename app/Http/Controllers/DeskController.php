<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Models\Role;
use App\Models\User;
use App\View\DeskView;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

final class DeskController
{
    public function __invoke(Request $request): View|RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        if ($user->role === Role::Administrator) {
            return redirect('/rights'); // no request is theirs to see
        }

        return view('desk', ['view' => new DeskView($user, $request)]);
    }
}
