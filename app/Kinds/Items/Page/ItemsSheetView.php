<?php

declare(strict_types=1);

namespace App\Kinds\Items\Page;

use App\Kinds\Items\Order\ItemsSheet;
use App\Kinds\Items\Server\MailServer;
use App\Kinds\Touched;
use App\Kinds\TouchedPlace;
use App\Models\RecoveryRequest;
use App\Models\Run;
use App\Models\User;
use App\View\ChainChart;
use App\View\ChartRow;
use App\View\ChartWindow;
use App\View\PointInHand;
use App\View\RequestFrame;
use Illuminate\Http\Request;
use Illuminate\Support\Collection;

/** What the page of a request about mailboxes shows. */
final class ItemsSheetView
{
    public readonly ItemsSheet $sheet;

    public readonly RequestFrame $frame;

    public readonly ChartWindow $window;

    private ?ChainChart $chart = null;

    public function __construct(public readonly RecoveryRequest $request, public readonly User $user, private readonly Request $http)
    {
        $this->sheet = new ItemsSheet($request);
        $this->frame = new RequestFrame($request, $user, $http);
        $this->window = ChartWindow::of($http);
    }

    public function chart(): ChainChart
    {
        return $this->chart ??= new ChainChart(
            $this->sheet->points,
            $this->sheet->point === null ? null : $this->sheet->points->sets[$this->sheet->point->id] ?? null,
            $this->request->wanted_at,
            $this->window,
            $this->frame->zone,
            Run::provenOf($this->sheet->workload),
        );
    }

    public function inHand(): PointInHand
    {
        $point = $this->sheet->point === null ? null : $this->sheet->points->sets[$this->sheet->point->id] ?? null;

        return new PointInHand($this->request, $this->sheet->points, $this->sheet->found, $point, $this->frame->zone);
    }

    /** @return list<ChartRow> */
    public function rows(): array
    {
        return $this->inHand()->rows($this->chart());
    }

    public function what(): ItemsWhatView
    {
        return new ItemsWhatView($this, $this->http);
    }

    /** @return Collection<int, MailServer> those that this person may write to */
    public function servers(): Collection
    {
        $place = fn (MailServer $server): TouchedPlace => new TouchedPlace('that mail server', false, $server->originals(), $server, true);

        return MailServer::query()
            ->orderBy('name')
            ->get()
            ->filter(fn (MailServer $server): bool => (new Touched([$place($server)]))->refusedTo($this->user) === null);
    }

    /** Where the mailboxes are had looked at. */
    public function lookUrl(): string
    {
        return "/requests/{$this->request->id}/items/look";
    }

    public function settleUrl(): string
    {
        return "/requests/{$this->request->id}/items";
    }
}
