<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Order;

use App\Kinds\Databases\Intake\DumpFacts;
use App\Kinds\Databases\Run\WorkMeasurements;
use App\Words;
use Kaiseki\Core\Database\DumpSection;
use Kaiseki\Core\Database\WayEstimate;

/** The ways of a database side by side: what each touches, how long, what stands still, and what is lost. */
final class Ways
{
    private ?LoggedTransaction $suspect = null;

    private bool $isSought = false;

    public function __construct(private readonly DatabaseSheet $sheet)
    {
    }

    /** @return list<WayOffered> */
    public function all(): array
    {
        $suspect = $this->suspect();

        return [...$this->bySchema(), ...$this->byTransaction($suspect), $this->without($suspect)];
    }

    /** @return list<WayOffered> beside, in place, and tables in place */
    private function bySchema(): array
    {
        $tables = $this->tables($this->suspect());
        $lost = $this->sheet->lost()->transactions;

        return [
            $this->offered(
                'beside',
                'Beside, under another name',
                touches: 'nothing that is there',
                downtime: 'none',
                lost: 'nothing: the live schema goes on as it is',
                end: 'a second schema to compare and copy from',
            ),
            $this->offered(
                'in-place',
                'The whole schema in its place',
                touches: 'every table; what is there now is kept aside',
                downtime: 'while the tables change places',
                lost: $lost === 0 ? 'nothing' : Words::count($lost, 'transaction').' after the stop',
                end: 'the schema as it was',
            ),
            $this->offered(
                'tables',
                'Tables only, in their place',
                touches: $tables === [] ? 'the tables that are picked in What' : implode(', ', $tables).', kept aside',
                downtime: 'while they change places',
                lost: $this->lostOf($tables),
                end: 'these tables as they were, the others as they are',
                because: $tables === [] ? 'no table is picked: choose some in What' : null,
                tables: $tables,
            ),
        ];
    }

    /** @return list<WayOffered> the rows that one touched, and that one reversed */
    private function byTransaction(?LoggedTransaction $suspect): array
    {
        $tables = $this->tables($suspect);
        $rows = number_format($suspect?->rows() ?? 0);

        return [
            $this->offered(
                'rows',
                'The rows that one transaction touched',
                touches: "$rows rows of ".($tables === [] ? 'live tables' : implode(', ', $tables)),
                downtime: 'none; the rows are locked while they change',
                lost: 'nothing, but for rows that were changed since',
                end: 'the live tables, with these rows as they were',
                because: self::noneInHand($suspect),
            ),
            $this->offered(
                'reverse',
                'That transaction reversed',
                touches: "$rows rows, from the log alone",
                downtime: 'none; the rows are locked while they change',
                lost: 'nothing, but for rows that were changed since',
                end: 'the live tables, as if it had not been',
                because: self::noneInHand($suspect),
            ),
        ];
    }

    private function without(?LoggedTransaction $suspect): WayOffered
    {
        return $this->offered(
            'skip',
            'Everything but that transaction',
            touches: 'every table; what is there now is kept aside',
            downtime: 'while the tables change places',
            lost: $suspect === null ? 'the transaction' : "only {$suspect->gtid}; what rests on it may not fit",
            end: 'the schema as the logs end, without it',
            because: self::noneInHand($suspect),
        );
    }

    private static function noneInHand(?LoggedTransaction $suspect): ?string
    {
        return $suspect === null ? 'no transaction is pointed at: choose one in When' : null;
    }

    /** @param  list<string>|null  $tables */
    private function offered(
        string $way,
        string $title,
        string $touches,
        string $downtime,
        string $lost,
        string $end,
        ?string $because = null,
        ?array $tables = null,
    ): WayOffered {
        return new WayOffered(
            $way,
            $title,
            $touches,
            $downtime,
            $lost,
            $end,
            $this->estimate($way, $tables, $this->suspect()),
            $this->isChosen($way),
            $because,
        );
    }

    private function isChosen(string $way): bool
    {
        $order = $this->sheet->order;
        if ($order === null) {
            return false;
        }
        $skips = $order->skip !== [];

        return $way === 'skip' ? $skips : ! $skips && $order->way === $way && ($way !== 'tables' || $order->isInPlace());
    }

    /** The transaction in hand: chosen, or the likeliest. */
    public function suspect(): ?LoggedTransaction
    {
        if (! $this->isSought) {
            $this->isSought = true;
            $this->suspect = $this->inHand();
        }

        return $this->suspect;
    }

    private function inHand(): ?LoggedTransaction
    {
        $choice = $this->sheet->choice;
        $gtid =
            (string) ($choice['rows-of'] ??
                ($choice['reverse'] ?? (array_values((array) ($choice['skip'] ?? []))[0] ?? ($choice['before'] ?? ''))));
        $chosen = $gtid === '' ? null : $this->sheet->points->transactions->byGtid($gtid);

        return $chosen ?? $this->sheet->suspects()->likeliest()?->transaction;
    }

    /** @return list<string> */
    private function tables(?LoggedTransaction $suspect): array
    {
        $picked = $this->sheet->order?->tables;

        return $picked ?? array_values(array_unique(array_column($suspect->tables ?? [], 'table')));
    }

    /** @param  list<string>  $tables */
    private function lostOf(array $tables): string
    {
        $transactions = 0;
        foreach ($this->sheet->lost()->tables as $name => $of) {
            $transactions += in_array(explode('.', (string) $name, 2)[1] ?? '', $tables, true) ? $of->transactions : 0;
        }

        return $transactions === 0 ? 'nothing' : Words::count($transactions, 'change').' of them after the stop';
    }

    /** @param  list<string>|null  $tables */
    public function estimate(string $way, ?array $tables = null, ?LoggedTransaction $suspect = null): WayEstimate
    {
        $suspect ??= $this->suspect();
        $dump = $wanted = $log = 0;
        foreach ($this->sheet->reaches as $reach) {
            $sections = DumpFacts::sections($reach->dump);
            $dump += $reach->dump->tree_bytes > 0 ? (int) $reach->dump->tree_bytes : $reach->dump->bytes;
            foreach ($sections as $section) {
                $wanted +=
                    $section->kind === DumpSection::DATA && ($tables === null || in_array($section->name, $tables, true))
                        ? $section->bytes
                        : 0;
            }
            $log += $reach->logBytes();
        }
        $rows = $suspect?->rows() ?? 0;
        $rates = WorkMeasurements::now();

        $estimate = match ($way) {
            'rows' => $suspect !== null && $suspect->showsItsRows()
                ? WayEstimate::reversal($suspect->end, $rows)
                : WayEstimate::rows($dump, $log, $this->sheet->transactions(), $rows, $rates),
            'reverse' => WayEstimate::reversal($suspect === null ? 0 : $suspect->end, $rows),
            default => WayEstimate::whole(
                $tables === null ? $dump : $wanted,
                $wanted,
                $log,
                $this->sheet->transactions(),
                $way !== 'beside',
                $rates,
            ),
        };

        return $this->sheet->reading === null ? $estimate : $estimate->withReading($this->sheet->reading->estimate());
    }
}
