<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Order;

use App\Kinds\Databases\Server\CannotReachServer;
use App\Kinds\Databases\Server\ServerLink;
use App\Kinds\Look;
use App\Models\RecoveryRequest;
use Closure;
use Kaiseki\Core\Proof\CheckLine;
use PDOException;

/** Looks at the server that an order goes to: the checks before a run, and about how many rows its tables have. */
final readonly class ServerLook implements Look
{
    /** Tables that are told of. */
    private const TABLES = 20_000;

    private DatabaseSheet $sheet;

    public function __construct(RecoveryRequest $request, array $asked, ?DatabaseSheet $sheet = null)
    {
        $this->sheet = $sheet ?? new DatabaseSheet($request);
    }

    public function title(): string
    {
        return 'the server '.($this->sheet->order->server ?? '');
    }

    public function fingerprint(): string
    {
        return hash('sha256', "server\0".$this->sheet->fingerprint());
    }

    /** @return array<string, mixed> lines, as CheckLine keeps them, and live: SCHEMA.TABLE => rows */
    public function take(Closure $told): array
    {
        $order = $this->sheet->order;

        return [
            'lines' => $order === null ? [] : CheckLine::kept(DatabaseChecks::of($order, $this->sheet->reaches)->lines),
            'live' => $order === null ? [] : self::live($order),
        ];
    }

    /** @return array<string, int> SCHEMA.TABLE => rows as the server estimates them; none if it does not answer */
    private static function live(DatabaseOrder $order): array
    {
        $ask =
            'SELECT table_schema AS s, table_name AS t, table_rows AS n FROM information_schema.tables '.
            'WHERE table_type = "BASE TABLE" LIMIT '.
            self::TABLES;
        try {
            $live = [];
            foreach (ServerLink::to($order->server())->rows($ask) as $row) {
                $live["{$row['s']}.{$row['t']}"] = (int) $row['n'];
            }

            return $live;
        } catch (CannotReachServer|CannotRestore|PDOException) {
            return [];
        }
    }
}
