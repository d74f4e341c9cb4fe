<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Care\KeepRules;
use App\Http\Requests\KeepRuleRequest;
use App\Models\Store;
use App\Models\User;
use App\Models\Workload;
use App\Orders\CannotOrder;
use App\Orders\Deeds;
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
        abort_unless($store === null || $user->can('tend', $store), 403);
        $rule = trim($request->string('rule')->value());
        $everyNight = $request->boolean('every_night');
        try {
            KeepRules::refuseUnfit($rule === '' ? 'none' : $rule, false);
            $detail = ['store' => $store?->id, 'rule' => $rule, 'every_night' => $everyNight];
            $now = KeepRules::of($workload)->firstWhere('store', $store?->name)->rule ?? 'everything';
            $where = $store->name ?? 'all other stores';
            $words = "Keep of {$workload->name} on $where only what this rule names: $rule (now: $now)";
            $words .= $everyNight ? ', and delete the rest by itself.' : '.';
            // To keep everything takes nothing away: nobody need be asked.
            $told = $rule === ''
                ? Deeds::Keep->carryOut($workload, $detail, $user)
                : Deeds::Keep->doOrAsk($workload, $detail, $words, $user);
        } catch (InvalidArgumentException|CannotOrder $wrong) {
            return back()->withInput()->withErrors(['rule' => $wrong->getMessage()]);
        }

        return redirect("/workloads/{$workload->id}/care")->with('told', $told);
    }
}
