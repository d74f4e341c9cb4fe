<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Care\NewSources;
use App\Care\UnprotectedSource;
use App\Models\Role;
use App\Models\User;
use App\Words;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use InvalidArgumentException;

/** Takes up sources that nothing protected. */
final class TakeUpController
{
    public function __invoke(Request $request): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        abort_unless($user->role === Role::Operator, 403);
        $names = array_values(array_filter((array) $request->input('sources', []), is_string(...)));
        $seen = array_filter((new NewSources)->found(), fn (UnprotectedSource $source): bool => $user->sees($source->group));
        try {
            $taken = (new NewSources)->takeUpAll(array_values(array_intersect($names, array_column($seen, 'name'))), $user);
        } catch (InvalidArgumentException $wrong) {
            return redirect('/estate')->withErrors(['sources' => $wrong->getMessage()]);
        }

        return $taken === 0
            ? redirect('/estate')->withErrors(['sources' => 'None was picked.'])
            : redirect('/estate')->with('told', Words::count($taken, 'source').' taken up.');
    }
}
