<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Models\Run;
use App\Models\User;
use App\Models\Workload;
use App\Runs\ProofKey;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;

final class ProofController
{
    public function index(Request $request): View
    {
        $user = $request->user();
        assert($user instanceof User);
        $runs = Run::query()->with('workload', 'request', 'user')
            ->whereIn('workload_id', Workload::seenBy($user)->select('id'))->latest('id');

        return view('proofs', ['runs' => $runs->paginate(50), 'key' => ProofKey::known()[0] ?? null]);
    }

    public function show(Run $run): View
    {
        return view('runs.show', ['run' => $run]);
    }
}
