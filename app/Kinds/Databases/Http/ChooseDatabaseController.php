<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Http;

use App\Kinds\Databases\Order\DatabaseSaid;
use App\Kinds\Databases\Order\DatabaseSheet;
use App\Kinds\Databases\Order\Ways;
use App\Kinds\Databases\Server\DatabaseServer;
use App\Kinds\Databases\Server\TouchedServer;
use App\Kinds\Touched;
use App\Models\RecoveryRequest;
use App\Models\User;
use Illuminate\Http\RedirectResponse;

/** Settles a part of the order for a database: where it stops, the way, the tables, where it goes. */
final class ChooseDatabaseController
{
    /** What says which way it goes. */
    private const WAY = ['in-place' => null, 'rows-of' => null, 'reverse' => null, 'skip' => null, 'schema' => null];

    /** @return list<string> those that the transaction in hand is about */
    private function tablesOf(RecoveryRequest $request): array
    {
        return array_values(array_unique(array_column((new Ways(new DatabaseSheet($request)))->suspect()->tables ?? [], 1)));
    }

    public function __invoke(DatabaseChoiceRequest $request, RecoveryRequest $recoveryRequest): RedirectResponse
    {
        $choice = DatabaseSaid::of($recoveryRequest)->choice;
        $show = 'when';
        switch ($request->string('set')->value()) {
            case 'stop':
                $choice = array_diff_key($choice, [
                    'at' => 1,
                    'before' => 1,
                    'through' => 1,
                    'position' => 1,
                    'rows-of' => 1,
                    'reverse' => 1,
                ]);
                if ($request->string('stop')->value() !== 'wanted') {
                    $choice[$request->string('stop')->value()] = $request->string('gtid')->value();
                }
                break;
            case 'way':
                $show = 'how';
                $suspect = $request->filled('gtid')
                    ? $request->string('gtid')->value()
                    : (new Ways(new DatabaseSheet($recoveryRequest)))->suspect()?->gtid;
                $stop = array_intersect_key($choice, ['at' => 1, 'before' => 1, 'through' => 1, 'position' => 1]);
                $way = $request->string('way')->value();
                if ($suspect === null && in_array($way, ['rows', 'reverse', 'skip'], true)) {
                    return back()->withErrors(['way' => 'Choose a transaction in When first.']);
                }
                $choice = match ($way) {
                    'in-place' => array_diff_key($choice, self::WAY, ['tables' => 1]) + ['in-place' => true],
                    'tables' => array_diff_key($choice, self::WAY) + ['in-place' => true, 'tables' => $this->tablesOf($recoveryRequest)],
                    'rows' => array_diff_key($choice, self::WAY, $stop, ['tables' => 1]) + ['rows-of' => $suspect],
                    'reverse' => array_diff_key($choice, self::WAY, $stop, ['tables' => 1]) + ['reverse' => $suspect],
                    'skip' => array_diff_key($choice, self::WAY, $stop, ['tables' => 1]) + [
                        'in-place' => true,
                        'skip' => [$suspect],
                        'at' => now()->utc()->format('Y-m-d\TH:i:s\Z'),
                    ],
                    default => array_diff_key($choice, self::WAY),
                };
                break;
            case 'tables':
                $show = 'what';
                $tables = array_values(array_unique(array_map(strval(...), (array) $request->input('tables', []))));
                $choice = ['tables' => $tables] + $choice;
                break;
            case 'where':
                $show = 'where';
                $server = DatabaseServer::query()
                    ->where('name', $request->string('server')->value())
                    ->first();
                $user = $request->user();
                assert($user instanceof User);
                $refused = $server === null ? null : (new Touched([TouchedServer::place($server, false)]))->refusedTo($user);
                if ($refused !== null) {
                    return back()->withErrors(['server' => $refused]);
                }
                $choice = ['server' => $request->string('server')->value() ?: null] + $choice;
                $choice = $request->boolean('in_place')
                    ? array_diff_key($choice, ['schema' => 1, 'skip' => 1]) + ['in-place' => true]
                    : ['schema' => $request->string('schema')->value() ?: null] + array_diff_key($choice, self::WAY);
                break;
            default:
                $show = 'how';
                $choice = ['query' => $request->string('query')->value() ?: null, 'take-conflicts' => $request->boolean('take')] + $choice;
        }
        (new DatabaseSaid($choice))->keepOn($recoveryRequest)->save();

        return redirect(
            "/requests/{$recoveryRequest->id}?show=$show".($request->filled('view') ? $request->string('view')->value() : ''),
        );
    }
}
