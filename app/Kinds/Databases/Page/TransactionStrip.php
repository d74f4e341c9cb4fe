<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Page;

use App\Kinds\Databases\Order\DatabaseSheet;
use App\Kinds\Databases\Order\LoggedTransaction;
use App\View\ChartLabel;
use Carbon\CarbonImmutable;
use Exception;
use Kaiseki\Core\Database\LogChain;
use Kaiseki\Core\Database\LogPosition;
use Kaiseki\Core\Database\Suspicion;

/**
 * The transactions around a moment as a drawing and a table: rows that came or changed stand above the line, rows that
 * were removed hang below it, as tall as their logarithm; definitions are diamonds. The gate is where the restore stops.
 */
final class TransactionStrip
{
    public const WIDTH = 820;

    public const HEIGHT = 104;

    public const GROUND = 62;

    private const MARGIN = 18;

    /** Drawn one by one up to so many; beyond that the heaviest of each pixel. */
    private const DRAWN = 700;

    private const LISTED = 400;

    private const READ = 30_000;

    public readonly int $from;

    public readonly int $to;

    /** @var list<LoggedTransaction> in the order of the logs */
    public readonly array $all;

    public readonly bool $isCut;

    public readonly int $minutes;

    /** @var array<string, Suspicion|null> */
    private array $suspicions = [];

    private ?LogPosition $gate;

    public function __construct(
        private readonly DatabaseSheet $sheet,
        public readonly string $table,
        public readonly string $words,
        int $minutes,
        string $middle,
    ) {
        $this->minutes = $minutes > 0 ? min($minutes, 60 * 24 * 60) : 180;
        try {
            $at = $middle === '' ? null : CarbonImmutable::parse($middle)->getTimestamp();
        } catch (Exception) {
            $at = null;
        }
        $likeliest = $sheet->suspects()->likeliest();
        $at ??=
            $sheet->reached() !== null && ($sheet->order?->stop->kind ?? 'at') !== 'at'
                ? $sheet->reached()->at
                : $likeliest->transaction->at ?? $sheet->request->wanted_at->getTimestamp();
        $this->from = $at - $this->minutes * 30;
        $this->to = $at + $this->minutes * 30;
        $all = [];
        foreach ($sheet->points->transactions->all($this->from, $this->to, $table === '' ? null : $table, $words) as $transaction) {
            if (count($all) >= self::READ) {
                break;
            }
            $all[] = $transaction;
        }
        $this->isCut = count($all) >= self::READ;
        $this->all = $all;
        $this->gate = $sheet->until();
    }

    public function middle(): int
    {
        return intdiv($this->from + $this->to, 2);
    }

    public function query(?int $minutes = null, ?int $middle = null): string
    {
        return '&'.
            http_build_query(
                array_filter(
                    [
                        'table' => $this->table,
                        'of' => $this->words,
                        'minutes' => $minutes ?? $this->minutes,
                        'mid' => gmdate('Y-m-d\TH:i:s\Z', $middle ?? $this->middle()),
                    ],
                    fn (mixed $value): bool => $value !== '',
                ),
            );
    }

    public function x(int $at): float
    {
        return round(self::MARGIN + (($at - $this->from) / max(1, $this->to - $this->from)) * (self::WIDTH - 2 * self::MARGIN), 1);
    }

    /** Whether it lies behind the gate: a restore loses it. */
    public function isLost(LoggedTransaction $transaction): bool
    {
        return $this->gate !== null && ! $this->gate->isAfter($transaction->begins());
    }

    /** Where the gate stands in the drawing; null if it is outside. */
    public function gateX(): ?float
    {
        if ($this->gate === null) {
            return null;
        }
        $before = $this->sheet->reached();
        $after = $this->sheet->points->transactions->firstAfter($this->gate);
        $at = $before === null ? $after?->at : ($after === null ? $before->at : intdiv($before->at + $after->at, 2));
        if ($at === null || $at < $this->from || $at > $this->to) {
            return null;
        }
        // Between the two it stands beside, however close they are.
        $x = $this->x($at);
        $left = $before === null ? 0 : $this->x($before->at);
        $right = $after === null ? self::WIDTH : $this->x($after->at);

        return $right - $left < 4 ? round($right - 1.5, 1) : $x;
    }

    /** Where the hatching of what is lost begins; null if nothing in the drawing is. */
    public function lostFromX(): ?float
    {
        $gate = $this->gateX();
        if ($gate !== null) {
            return $gate;
        }
        $first = $this->all[0] ?? null;

        return $first !== null && $this->isLost($first) ? (float) self::MARGIN : null;
    }

    /** @return list<Stem> */
    public function stems(): array
    {
        $byPixel = [];
        $thin = count($this->all) > self::DRAWN;
        foreach ($this->all as $i => $transaction) {
            $x = $this->x($transaction->at);
            $key = $thin ? (string) round($x) : (string) $i;
            $weight = ($this->suspicion($transaction)->weight ?? 0) * 1e6 + $transaction->rows() + ($transaction->isDefinition ? 1000 : 0);
            $count = ($byPixel[$key]['standsFor'] ?? 0) + 1;
            if (! isset($byPixel[$key]) || $weight > $byPixel[$key]['weight']) {
                $byPixel[$key] = ['weight' => $weight, 'transaction' => $transaction, 'x' => $x];
            }
            $byPixel[$key]['standsFor'] = $count;
        }
        $stems = [];
        $tall = fn (int $rows): float => $rows === 0 ? 0.0 : round(3 + 8 * log10($rows + 1), 1);
        foreach ($byPixel as $one) {
            $transaction = $one['transaction'];
            $stems[] = new Stem(
                $transaction,
                $one['x'],
                $tall($transaction->inserted + $transaction->updated),
                min(30.0, $tall($transaction->deleted)),
                $one['standsFor'],
                $this->suspicion($transaction),
                $this->isLost($transaction),
            );
        }

        return $stems;
    }

    public function suspicion(LoggedTransaction $transaction): ?Suspicion
    {
        $key = $transaction->begins()->text();

        return array_key_exists($key, $this->suspicions)
            ? $this->suspicions[$key]
            : ($this->suspicions[$key] = Suspicion::of(
                $transaction->statement,
                $transaction->isDefinition,
                $transaction->tables,
                $this->sheet->suspects()->sizes,
            ));
    }

    /** @return list<LoggedTransaction> those nearest to the gate, in their order */
    public function listed(): array
    {
        if (count($this->all) <= self::LISTED) {
            return $this->all;
        }
        $first = 0;
        foreach ($this->all as $i => $transaction) {
            if ($this->isLost($transaction)) {
                $first = $i;
                break;
            }
        }

        return array_slice($this->all, max(0, min(count($this->all) - self::LISTED, $first - intdiv(self::LISTED, 2))), self::LISTED);
    }

    /** @return list<string> tables that occur in what is shown */
    public function tables(): array
    {
        $tables = [];
        foreach ($this->all as $transaction) {
            foreach ($transaction->tables as $table) {
                $tables[$table->name()] = true;
            }
        }
        if ($this->table !== '') {
            $tables[$this->table] = true;
        }
        ksort($tables);

        return array_slice(array_map(strval(...), array_keys($tables)), 0, 200);
    }

    /** @return list<ChartLabel> */
    public function labels(string $zone): array
    {
        $steps = [60, 300, 600, 900, 1800, 3600, 7200, 10800, 21600, 43200, 86400, 172800, 604800];
        $step = 604800;
        foreach ($steps as $one) {
            if (($this->to - $this->from) / $one <= 9) {
                $step = $one;
                break;
            }
        }
        $labels = [];
        $offset = CarbonImmutable::createFromTimestamp($this->from, $zone)->getOffset();
        for ($at = intdiv($this->from + $offset, $step) * $step + $step - $offset; $at < $this->to; $at += $step) {
            $format = $step >= 86400 ? 'D j M' : ($step >= 21600 ? 'D H:i' : 'H:i');
            $labels[] = new ChartLabel($this->x($at), CarbonImmutable::createFromTimestamp($at, $zone)->format($format));
        }

        return $labels;
    }

    /** @return list<LogGap> */
    public function gaps(): array
    {
        $gaps = [];
        $logs = array_values($this->sheet->points->transactions->logs);
        foreach ($logs as $i => $log) {
            $because = $i === 0 ? null : LogChain::breakBetween($logs[$i - 1], $log);
            if ($because === null) {
                continue;
            }
            $next = $this->sheet->points->transactions->firstAfter(new LogPosition($log->file, 4));
            [$from, $to] = [$logs[$i - 1]->lastAt, $next->at ?? $log->lastAt];
            if ($to >= $this->from && $from <= $this->to) {
                $gaps[] = new LogGap(
                    max((float) self::MARGIN, $this->x($from)),
                    min((float) (self::WIDTH - self::MARGIN), $this->x($to)),
                    $because,
                );
            }
        }

        return $gaps;
    }
}
