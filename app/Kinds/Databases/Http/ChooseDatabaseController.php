<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Http;

use App\Kinds\Databases\Order\ChangedChoice;
use App\Models\RecoveryRequest;
use App\Models\User;
use Illuminate\Http\RedirectResponse;

/** Settles a part of the order for a database: where it stops, the way, the tables, where it goes. */
final class ChooseDatabaseController
{
    /** What is settled => the picker that shows it. */
    private const SHOWN = ['stop' => 'when', 'way' => 'how', 'tables' => 'what', 'where' => 'where'];

    public function __invoke(DatabaseChoiceRequest $request, RecoveryRequest $recoveryRequest): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        $set = $request->string('set')->value();
        $text = fn (string $field): string => $request->string($field)->value();
        $choice = new ChangedChoice($recoveryRequest);
        match ($set) {
            'stop' => $choice->stop($text('stop'), $text('gtid')),
            'way' => $choice->way($text('way'), $text('gtid') ?: null),
            'tables' => $choice->tables(array_values(array_map(strval(...), (array) $request->input('tables', [])))),
            'where' => $choice->where($user, $text('server') ?: null, $text('schema') ?: null, $request->boolean('in_place')),
            default => $choice->question($text('query') ?: null, $request->boolean('take')),
        };
        $choice->keep();

        return redirect("/requests/{$recoveryRequest->id}?show=".(self::SHOWN[$set] ?? 'how').$text('view'));
    }
}
