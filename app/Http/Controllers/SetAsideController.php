<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Models\Run;
use App\Models\User;
use App\Runs\SetAsides;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

/** Keeps what a run replaced for longer. */
final class SetAsideController
{
    public function __invoke(Request $request, Run $run): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        abort_if($run->set_aside_until === null || $run->put_back_at !== null, 404);
        SetAsides::keepUntil($run, $run->set_aside_until->addDays(SetAsides::DAYS), $user);

        return redirect($run->page());
    }
}
