<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Models\Run;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Response;

/** The steps of a run, asked for again and again while it is at work; when it is over the whole page is. */
final class RunProgressController
{
    public function __invoke(Run $run): View|Response
    {
        if ($run->isOver()) {
            return response('', 200, ['HX-Refresh' => 'true']);
        }

        return view('runs.progress', ['run' => $run]);
    }
}
