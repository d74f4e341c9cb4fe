<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Requests\RightRequest;
use App\Kinds\Targets;
use App\Models\Target;
use App\Models\User;
use App\Orders\CannotOrder;
use App\Orders\RightsChange;
use App\Rights\CannotGive;
use App\View\RightsView;
use App\View\TargetView;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

/** Targets, who reaches each, and the rules by which they do. */
final class RightController
{
    public function index(Request $request): View
    {
        return view('rights.index', ['view' => new RightsView($request)]);
    }

    public function show(string $sort, int $id): View
    {
        return view('rights.show', ['view' => new TargetView(self::target($sort, $id))]);
    }

    public function update(RightRequest $request, string $sort, int $id): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        $target = self::target($sort, $id);
        try {
            $told = RightsChange::say($target, $request->group(), $request->role(), $request->rights(), $user);
        } catch (CannotGive|CannotOrder $cannot) {
            return back()->withInput()->withErrors(['group' => $cannot->getMessage()]);
        }

        return redirect("/rights/$sort/$id")->with('told', $told);
    }

    private static function target(string $sort, int $id): Target
    {
        return Targets::find($sort, $id) ?? abort(404);
    }
}
