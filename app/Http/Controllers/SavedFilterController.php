<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Models\User;
use App\View\RequestFilter;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\DB;

/** Somebody keeps a filter of requests under a name, for themselves, or gives it up. */
final class SavedFilterController
{
    private const MOST = 20;

    public function __invoke(Request $request): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        $request->validate(['name' => ['required', 'string', 'max:60'], 'do' => ['required', 'in:keep,forget']]);
        $of = DB::table('saved_filters')->where('user_id', $user->id);
        $name = trim($request->string('name')->value());
        if ($request->string('do')->value() === 'forget') {
            (clone $of)->where('name', $name)->delete();

            return redirect('/');
        }
        $filter = new RequestFilter($request);
        $back = redirect('/?'.$filter->query());
        if ($filter->isNone()) {
            return $back->withErrors(['name' => 'Filter first: all open requests need no name.']);
        }
        if ((clone $of)->where('name', '<>', $name)->count() >= self::MOST) {
            return $back->withErrors(['name' => 'You keep '.self::MOST.' filters already; give one up first.']);
        }
        DB::table('saved_filters')->upsert(
            ['user_id' => $user->id, 'name' => $name, 'query' => $filter->query(), 'created_at' => now(), 'updated_at' => now()],
            ['user_id', 'name'],
            ['query', 'updated_at'],
        );

        return $back;
    }
}
