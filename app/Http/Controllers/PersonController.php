<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Requests\PersonRequest;
use App\Models\User;
use App\People\Account;
use App\View\PersonView;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

/** People, what each sees and reaches, and what an administrator changes of that. */
final class PersonController
{
    public function index(): View
    {
        return view('people.index', ['people' => User::query()->orderBy('name')->paginate(100)]);
    }

    public function show(Request $request, User $user): View
    {
        $viewer = $request->user();
        assert($viewer instanceof User);

        return view('people.show', ['view' => new PersonView($user, $viewer)]);
    }

    public function update(PersonRequest $request, User $user): RedirectResponse
    {
        $by = $request->user();
        assert($by instanceof User);
        if ($by->is($user)) {
            return back()->withErrors(['role' => 'What you may do yourself another administrator says.']);
        }
        if (Account::isLastAdministrator($user)) {
            return back()->withErrors(['role' => 'They are the last administrator: make another one first.']);
        }
        $user->fill(['role' => $request->role(), 'workload_groups' => $request->groups(), 'duties' => $request->duties()]);
        $user->locked_at = $request->boolean('locked') ? $user->locked_at ?? now()->toImmutable() : null;

        return redirect("/people/{$user->id}")->with('told', Account::save($user, $by));
    }
}
