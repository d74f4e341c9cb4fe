<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Rows;

use App\Kinds\Databases\Order\CannotRestore;
use App\Kinds\Databases\Order\DatabaseOrder;
use App\Kinds\Databases\Order\DatabaseSheet;
use App\Kinds\Databases\Server\CannotReachServer;
use App\Kinds\Look;
use App\Models\RecoveryRequest;
use Closure;

/** Looks at what a restore by rows would do to the live tables: brings both sides up on a throw-away server and compares them. */
final readonly class RowsLook implements Look
{
    /** Compressed bytes; what is larger is looked at from a terminal. */
    private const LARGEST = 2 << 30;

    private DatabaseSheet $sheet;

    public function __construct(RecoveryRequest $request, array $asked, ?DatabaseSheet $sheet = null)
    {
        $this->sheet = $sheet ?? new DatabaseSheet($request);
    }

    public function title(): string
    {
        return 'the rows, beside the live ones';
    }

    public function fingerprint(): string
    {
        return hash('sha256', "rows\0".$this->sheet->fingerprint());
    }

    public function take(Closure $told): array
    {
        $order = $this->sheet->order;
        if ($order === null || ! $order->isByRows()) {
            return RowsFound::problem('The order is not one by rows.')->toArray();
        }
        if ($this->sheet->bytes() > self::LARGEST) {
            return RowsFound::problem($this->tooMuch($order))->toArray();
        }
        try {
            return RowsFound::by(RowPreview::of($this->sheet->workload, $order, $told))->toArray();
        } catch (CannotRestore|CannotReachServer $cannot) {
            return RowsFound::problem(mb_scrub($cannot->getMessage()))->toArray();
        }
    }

    private function tooMuch(DatabaseOrder $order): string
    {
        return 'That is too much to be gone through beforehand. What it would do, row by row, tells: bin/kaiseki restore '.
            $this->sheet->workload->name.
            " --server={$order->server} --".
            ($order->way === DatabaseOrder::REVERSE ? 'reverse' : 'rows-of').
            "={$order->gtid} --dry-run. The run compares every row before it changes any.";
    }
}
