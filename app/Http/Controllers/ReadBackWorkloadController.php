<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Jobs\ReadBackCopies;
use App\Models\Copy;
use App\Models\User;
use App\Models\Workload;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

/** Has all copies of a workload read back. */
final class ReadBackWorkloadController
{
    public function __invoke(Request $request, Workload $workload): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        $copies = Copy::query()
            ->where('workload_id', $workload->id)
            ->orderByRaw('checked_at IS NOT NULL, checked_at, id')
            ->pluck('id')
            ->all();
        ReadBackCopies::begin($copies, $workload->id, $user);

        return redirect("/workloads/{$workload->id}/care")->with(
            'told',
            'Its copies are being read back, those checked longest ago first.',
        );
    }
}
