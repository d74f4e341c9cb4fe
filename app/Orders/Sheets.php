<?php

declare(strict_types=1);

namespace App\Orders;

use App\Kinds\Databases\Order\DatabaseSheet;
use App\Kinds\Files\Order\Worksheet;
use App\Models\RecoveryRequest;

/** The sheet of a request, by the kind of its workload. */
final class Sheets
{
    public static function of(RecoveryRequest $request): OrderSheet
    {
        return $request->workload?->kind === 'database' ? new DatabaseSheet($request) : new Worksheet($request);
    }
}
