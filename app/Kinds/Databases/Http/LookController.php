<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Http;

use App\Kinds\Databases\Order\ServerLook;
use App\Kinds\Databases\Rows\RowsLook;
use App\Kinds\Databases\Rows\TableLook;
use App\Looks\KeptLook;
use App\Models\RecoveryRequest;
use App\Models\User;
use App\Sets\ContentRead;
use App\View\RequestFrame;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Validation\Rule;

/** Has something looked at that takes too long for a page: the server, the rows that would change, the rows of one table. */
final class LookController
{
    private const LOOKS = ['server' => ServerLook::class, 'rows' => RowsLook::class, 'table' => TableLook::class];

    public function __invoke(Request $request, RecoveryRequest $recoveryRequest): RedirectResponse
    {
        $request->validate([
            'look' => ['required', Rule::in(array_keys(self::LOOKS))],
            'show' => ['required', Rule::in(array_keys(RequestFrame::PICKERS))],
            'table' => ['required_if:look,table', 'string', 'max:200'],
            'key' => ['nullable', 'string', 'max:200'],
        ]);
        $asked =
            $request->string('look')->value() === 'table'
                ? ['table' => $request->string('table')->value(), 'key' => $request->string('key')->value()]
                : [];
        $user = $request->user();
        assert($user instanceof User);
        $type = self::LOOKS[$request->string('look')->value()];
        KeptLook::begin($recoveryRequest, $type, $asked);
        $title = (new $type($recoveryRequest, $asked))->title();
        ContentRead::told("Had looked at for request {$recoveryRequest->id}: $title.", $recoveryRequest->workload, $user);

        return redirect("/requests/{$recoveryRequest->id}?".http_build_query(['show' => $request->string('show')->value()] + $asked));
    }
}
