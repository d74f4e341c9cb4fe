<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Alarms\AlarmBook;
use App\Models\Alarm;
use App\Models\AlarmReceiver;
use App\Models\User;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;

/** What somebody must hear of now, who took it, and to whom it is sent. */
final class AlarmController
{
    private const OVER = 50;

    public function index(Request $request): View
    {
        $user = $request->user();
        assert($user instanceof User);

        return view('alarms.index', [
            'zone' => $user->zone,
            'open' => Alarm::seenBy($user)
                ->with('taker')
                ->whereNotNull('open')
                ->orderByRaw('taken_at IS NOT NULL')
                ->orderByDesc('id')
                ->limit(500)
                ->get(),
            'over' => Alarm::seenBy($user)->with('taker')->whereNull('open')->orderByDesc('over_at')->limit(self::OVER)->get(),
            'receivers' => AlarmReceiver::query()->count(),
        ]);
    }

    public function update(Request $request, Alarm $alarm): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        $told = AlarmBook::take($alarm, $user) ? 'It is yours, and is not sent any more.' : 'Somebody has it already.';

        return redirect('/alarms')->with('told', $told);
    }
}
