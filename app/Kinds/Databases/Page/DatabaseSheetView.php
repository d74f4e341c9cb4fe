<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Page;

use App\Kinds\Databases\Order\DatabaseOrder;
use App\Kinds\Databases\Order\DatabaseSheet;
use App\Kinds\Databases\Order\LoggedTransaction;
use App\Kinds\Databases\Order\WayOffered;
use App\Kinds\Databases\Order\Ways;
use App\Kinds\Databases\Rows\RowsFound;
use App\Kinds\Databases\Rows\RowsLook;
use App\Kinds\Databases\Rows\TableLook;
use App\Kinds\Databases\Rows\TableRows;
use App\Kinds\Databases\Server\DatabaseServer;
use App\Kinds\Databases\Server\TouchedServer;
use App\Kinds\Touched;
use App\Looks\KeptLook;
use App\Models\RecoveryRequest;
use App\Models\Run;
use App\Models\User;
use App\Sets\Points;
use App\View\ChainChart;
use App\View\ChartWindow;
use App\View\RequestFrame;
use App\Words;
use Illuminate\Http\Request;
use Illuminate\Support\Collection;
use Kaiseki\Core\Estimate\DurationRange;

/** What the page of a request about a database shows: the same worksheet, with the logs and the transactions in them. */
final class DatabaseSheetView
{
    public readonly DatabaseSheet $sheet;

    public readonly RequestFrame $frame;

    public readonly ChartWindow $window;

    private ?ChainChart $chart = null;

    private ?TransactionStrip $strip = null;

    public function __construct(public readonly RecoveryRequest $request, public readonly User $user, private readonly Request $http)
    {
        $this->sheet = new DatabaseSheet($request);
        $this->frame = new RequestFrame($request, $user, $http);
        $this->window = ChartWindow::of($http);
    }

    public function chart(): ChainChart
    {
        if ($this->chart === null) {
            $points = new Points($this->sheet->workload);
            $last = $this->sheet->reaches[0]->logs ?? [];
            $set =
                $last === []
                    ? $this->sheet->reaches[0]->dump ?? null
                    : $this->sheet->points->transactions->setOf($last[count($last) - 1]->file);
            $this->chart = new ChainChart(
                $points,
                $set === null ? null : $points->sets[$set->id] ?? null,
                $this->request->wanted_at,
                $this->window,
                $this->frame->zone,
                Run::provenOf($this->sheet->workload),
            );
        }

        return $this->chart;
    }

    public function strip(): TransactionStrip
    {
        return $this->strip ??= new TransactionStrip(
            $this->sheet,
            $this->http->string('table')->value(),
            mb_substr($this->http->string('of')->value(), 0, 200),
            $this->http->integer('minutes'),
            $this->http->string('mid')->value(),
        );
    }

    public function tables(): TablesAtPoint
    {
        return new TablesAtPoint($this->sheet);
    }

    /** Where something is had looked at. */
    public function lookUrl(): string
    {
        return "/requests/{$this->request->id}/database/look";
    }

    /** The looking at the rows of one table at the point, beside the live ones; null if none is asked for. */
    public function tableLook(): ?KeptLook
    {
        $asked = $this->askedTable();

        return $asked['table'] === '' ? null : KeptLook::of($this->request, new TableLook($this->request, $asked, $this->sheet));
    }

    /** @return array{table: string, key: string} what the page was asked for */
    public function askedTable(): array
    {
        $text = fn (string $name): string => mb_substr($this->http->string($name)->value(), 0, 200);

        return ['table' => $text('table'), 'key' => $text('key')];
    }

    /** @return list<WayOffered> */
    public function ways(): array
    {
        return (new Ways($this->sheet))->all();
    }

    public function spanInWords(DurationRange $range): string
    {
        return Words::duration($range->least).' to '.Words::duration($range->most);
    }

    public function suspect(): ?LoggedTransaction
    {
        return (new Ways($this->sheet))->suspect();
    }

    /** @return Collection<int, DatabaseServer> */
    public function servers(): Collection
    {
        return DatabaseServer::query()
            ->orderBy('name')
            ->get()
            ->filter(
                fn (DatabaseServer $server): bool => (new Touched([TouchedServer::place($server, false)]))->refusedTo($this->user) === null,
            );
    }

    /** What the looking at a table has found so far. */
    public function tableFound(KeptLook $look): TableRows
    {
        return TableRows::fromArray($look->found() ?? []);
    }

    /** What the looking at what a restore by rows would do has found so far. */
    public function rowsFound(KeptLook $look): RowsFound
    {
        return RowsFound::fromArray($look->found() ?? []);
    }

    /** The looking at what a restore by rows would do; null for other ways. */
    public function rowsLook(): ?KeptLook
    {
        return $this->sheet->order?->isByRows() === true
            ? KeptLook::of($this->request, new RowsLook($this->request, [], $this->sheet))
            : null;
    }

    public function isByRows(): bool
    {
        return in_array($this->sheet->order?->way, [DatabaseOrder::ROWS, DatabaseOrder::REVERSE], true);
    }
}
