<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Order;

use App\Kinds\Databases\Intake\DumpFacts;
use App\Kinds\Databases\Run\WorkMeasurements;
use App\Words;
use Kaiseki\Core\Database\DumpSection;
use Kaiseki\Core\Database\WayEstimate;

/** The ways of a database side by side: what each touches, how long, what stands still, and what is lost. */
final readonly class Ways
{
    public function __construct(private DatabaseSheet $sheet)
    {
    }

    /**
     * @return list<array{way: string, title: string, touches: string, downtime: string, estimate: WayEstimate, bytes: int, lost: string,
     *     end: string, chosen: bool, possible: string|null}>
     */
    public function all(): array
    {
        $suspect = $this->suspect();
        $lost = $this->sheet->lost();
        $lostWords = $lost['transactions'] === 0 ? 'nothing' : Words::count($lost['transactions'], 'transaction').' after the stop';
        $tables = $this->tables($suspect);
        $rows = $suspect?->rows() ?? 0;
        $order = $this->sheet->order;
        $skips = $order !== null && $order->skip !== [];
        $no = $suspect === null ? 'no transaction is pointed at: choose one in When' : null;
        $lines = [
            [
                'beside',
                'Beside, under another name',
                'nothing that is there',
                'none',
                null,
                'nothing: the live schema goes on as it is',
                'a second schema to compare and copy from',
                null,
            ],
            [
                'in-place',
                'The whole schema in its place',
                'every table; what is there now is kept aside',
                'while the tables change places',
                null,
                $lostWords,
                'the schema as it was',
                null,
            ],
            [
                'tables',
                'Tables only, in their place',
                $tables === [] ? 'the tables that are picked in What' : implode(', ', $tables).', kept aside',
                'while they change places',
                $tables,
                $this->lostOf($tables),
                'these tables as they were, the others as they are',
                $tables === [] ? 'no table is picked: choose some in What' : null,
            ],
            [
                'rows',
                'The rows that one transaction touched',
                number_format($rows).' rows of '.($tables === [] ? 'live tables' : implode(', ', $tables)),
                'none; the rows are locked while they change',
                null,
                'nothing, but for rows that were changed since',
                'the live tables, with these rows as they were',
                $no,
            ],
            [
                'reverse',
                'That transaction reversed',
                number_format($rows).' rows, from the log alone',
                'none; the rows are locked while they change',
                null,
                'nothing, but for rows that were changed since',
                'the live tables, as if it had not been',
                $no,
            ],
            [
                'skip',
                'Everything but that transaction',
                'every table; what is there now is kept aside',
                'while the tables change places',
                null,
                $suspect === null ? 'the transaction' : "only {$suspect->gtid}; what rests on it may not fit",
                'the schema as the logs end, without it',
                $no,
            ],
        ];

        return array_map(
            fn (array $line): array => [
                'way' => $line[0],
                'title' => $line[1],
                'touches' => $line[2],
                'downtime' => $line[3],
                'estimate' => ($estimate = $this->estimate($line[0], $line[4], $suspect)),
                'bytes' => $estimate->bytes,
                'lost' => $line[5],
                'end' => $line[6],
                'chosen' => $order !== null &&
                    ($line[0] === 'skip' ? $skips : ! $skips && $order->way === $line[0] && ($line[0] !== 'tables' || $order->isInPlace())),
                'possible' => $line[7],
            ],
            $lines,
        );
    }

    /** The transaction in hand: chosen, or the likeliest. */
    public function suspect(): ?LoggedTransaction
    {
        $choice = $this->sheet->choice;
        $gtid =
            (string) ($choice['rows-of'] ??
                ($choice['reverse'] ?? (array_values((array) ($choice['skip'] ?? []))[0] ?? ($choice['before'] ?? ''))));
        $chosen = $gtid === '' ? null : $this->sheet->points->transactions->byGtid($gtid);

        return $chosen ?? ($this->sheet->suspects()->likeliest()['transaction'] ?? null);
    }

    /** @return list<string> */
    private function tables(?LoggedTransaction $suspect): array
    {
        $picked = $this->sheet->order?->tables;

        return $picked ?? array_values(array_unique(array_column($suspect->tables ?? [], 1)));
    }

    /** @param  list<string>  $tables */
    private function lostOf(array $tables): string
    {
        $transactions = 0;
        foreach ($this->sheet->lost()['tables'] as $name => $of) {
            $transactions += in_array(explode('.', (string) $name, 2)[1] ?? '', $tables, true) ? $of[0] : 0;
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
