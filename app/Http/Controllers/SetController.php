<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Models\BackupSet;
use App\Models\User;
use App\View\SetView;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;

/** One set: its copies, its signs, what it can give back, and what keeps it. */
final class SetController
{
    public function __invoke(Request $request, BackupSet $backupSet): View
    {
        $user = $request->user();
        assert($user instanceof User);

        return view('set', ['view' => new SetView($backupSet, $user)]);
    }
}
