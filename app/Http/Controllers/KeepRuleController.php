<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Requests\KeepRuleRequest;
use App\Models\Store;
use App\Models\TrailEntry;
use App\Models\User;
use App\Models\Workload;
use App\Trust\KeepRules;
use Illuminate\Http\RedirectResponse;
use InvalidArgumentException;

/** Settles what of a workload is kept. */
final class KeepRuleController
{
    public function __invoke(KeepRuleRequest $request, Workload $workload): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        $store = $request->filled('store') ? Store::query()->findOrFail($request->integer('store')) : null;
        $rule = trim($request->string('rule')->value());
        try {
            KeepRules::settle($workload, $store, $rule === '' ? 'none' : $rule, $request->boolean('every_night'), false);
        } catch (InvalidArgumentException $wrong) {
            return back()->withInput()->withErrors(['rule' => $wrong->getMessage()]);
        }
        TrailEntry::add("What is kept of {$workload->name} on ".($store->name ?? 'all other stores').' was settled: '.($rule === '' ? 'everything' : $rule).'.', null, $user);

        return redirect("/workloads/{$workload->id}/care")->with('told', 'The rule is settled. Nothing is deleted before you have seen what it means.');
    }
}
