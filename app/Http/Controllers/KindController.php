<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\View\KindLine;
use Illuminate\Contracts\View\View;

/** The kinds of workloads, and what each needs on this machine. */
final class KindController
{
    public function __invoke(): View
    {
        return view('kinds', ['kinds' => KindLine::all()]);
    }
}
