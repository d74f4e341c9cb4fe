<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Models\User;
use App\Models\Workload;
use App\View\CareView;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;

/** How sets of a workload are made, read back and kept, and what was promised for it. */
final class CareController
{
    public function __invoke(Request $request, Workload $workload): View
    {
        $user = $request->user();
        assert($user instanceof User);

        return view('care', ['view' => new CareView($workload, $user)]);
    }
}
