<?php

declare(strict_types=1);

namespace App\Kinds\Files\Page;

use App\Hosts\Hosts;
use App\Kinds\BringsOthers;
use App\Kinds\Files\Order\AskedPath;
use App\Kinds\Files\Order\OrderPreview;
use App\Kinds\Files\Order\Worksheet;
use App\Kinds\Kinds;
use App\Models\RecoveryRequest;
use App\Models\Run;
use App\Models\User;
use App\Models\Workload;
use App\Trees\Catalog\CatalogReader;
use App\Trees\Catalog\FoundVersion;
use App\View\ChainChart;
use App\View\ChartRow;
use App\View\ChartWindow;
use App\View\PointInHand;
use App\View\RequestFrame;
use App\Words;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;
use Illuminate\Support\Collection;
use Kaiseki\Core\Chain\Chain;
use Kaiseki\Core\Files\Deed;

/** What the page of one request shows: the worksheet, and the picker in hand. */
final class WorksheetView
{
    public readonly Worksheet $sheet;

    public readonly RequestFrame $frame;

    public readonly ChartWindow $window;

    public readonly int $page;

    private ?ChainChart $chart = null;

    public function __construct(public readonly RecoveryRequest $request, public readonly User $user, private readonly Request $http)
    {
        $this->sheet = new Worksheet($request);
        $this->frame = new RequestFrame($request, $user, $http);
        $this->window = ChartWindow::of($http);
        $this->page = max(0, $http->integer('page'));
    }

    /** @return list<View> what other kinds can bring its workload back as */
    public function offers(): array
    {
        $workload = $this->request->workload;

        return $workload === null ? [] : array_map(
            fn (BringsOthers $kind): View => $kind->offer($this->request),
            Kinds::bringing($workload),
        );
    }

    /** Of the disk that the target lies on. */
    public function freeBytes(): int
    {
        return Hosts::original($this->sheet->target)?->freeBytes() ?? 0;
    }

    public function whenInWords(): string
    {
        $point = $this->sheet->point;

        return $point === null ? 'a moment with a usable point' : Words::moment($point->captured_at, $this->frame->zone, false);
    }

    public function chart(): ?ChainChart
    {
        if ($this->chart !== null || $this->sheet->points === null) {
            return $this->chart;
        }
        $points = $this->sheet->points;
        $point = $this->sheet->point === null ? null : $points->sets[$this->sheet->point->id] ?? null;

        return $this->chart = new ChainChart(
            $points,
            $point,
            $this->request->wanted_at,
            $this->window,
            $this->frame->zone,
            Run::provenOf($points->workload),
        );
    }

    /** @return list<ChartRow> */
    public function rows(): array
    {
        $chart = $this->chart();

        return $chart === null ? [] : $this->inHand()->rows($chart);
    }

    private function inHand(): PointInHand
    {
        $sheet = $this->sheet;
        $point = $sheet->point === null ? null : $sheet->points->sets[$sheet->point->id] ?? null;

        return new PointInHand($this->request, $sheet->points, $sheet->found, $point, $this->frame->zone);
    }

    /** Why this point, in a sentence or two. */
    public function why(): string
    {
        return $this->inHand()->sentences();
    }

    public function asked(): AskedPath
    {
        return new AskedPath($this->sheet);
    }

    /** The life of the one selected path: "3 versions in 40 points; still there at the newest". Nothing if it is not one. */
    public function lifeInWords(): string
    {
        $versions = $this->versions();
        $last = end($versions);

        return $last === false ? '' : Words::count(count($versions), 'version').' in '.
            Words::count(count($this->sheet->points->sets ?? []), 'point').'; '.
            ($last->until === PHP_INT_MAX
                ? 'still there at the newest'
                : 'gone since '.Words::instant($last->until, $this->frame->zone, false));
    }

    /** @return list<FoundVersion> of the one selected path, oldest first */
    private function versions(): array
    {
        $workload = $this->request->workload;

        return $workload === null || count($this->sheet->selection) !== 1 || $this->sheet->selection[0] === ''
            ? []
            : (new CatalogReader)->versionsOf($workload, $this->sheet->selection[0]);
    }

    /** How many sets of the point's chain hold nothing of what comes back. */
    public function idleSets(): int
    {
        $chain = $this->sheet->point === null ? null : $this->sheet->points?->graph->chainOf($this->sheet->point->name);

        return ($chain instanceof Chain ? count($chain->sets) : 0) - count($this->sheet->reading->list->readings ?? []);
    }

    /** What the run would do there, as it was seen last; null where nothing can stand, or nobody looked. */
    public function seenAlready(): ?OrderPreview
    {
        return $this->sheet->destination->isInUse() ? $this->sheet->preview() : null;
    }

    /** The same, looked at now. */
    public function seenNow(): ?OrderPreview
    {
        return $this->sheet->destination->isInUse() ? $this->sheet->preview(true) : null;
    }

    /** Of what the estimate is made, where that is not plain: the shelf, set-up, files. */
    public function estimateParts(): string
    {
        $estimate = $this->sheet->reading?->estimate;
        if ($estimate === null) {
            return '';
        }
        $parts = [];
        foreach (
            [
                'a way to the shelf' => $estimate->fetching->likely,
                'loading' => $estimate->setupSeconds,
                'reading' => $estimate->reading->likely,
                'files' => $estimate->files->likely,
            ] as $what => $seconds
        ) {
            if ($seconds >= 1 && $seconds >= $estimate->whole->likely / 20) {
                $parts[] = "$what ".Words::duration($seconds);
            }
        }

        return count($parts) < 2 ? '' : implode(', ', $parts);
    }

    public function what(): WhatView
    {
        return new WhatView($this, $this->http);
    }

    public function folders(): TargetFolders
    {
        return new TargetFolders($this->request, $this->http);
    }

    /** What the run would do, as far as the filter of this page lets it through. */
    public function preview(): ?OrderPreview
    {
        return $this->sheet->filteredPreview(
            $this->previewOf(),
            Deed::tryFrom($this->previewDeed()),
            $this->page * OrderPreview::LINES,
            $this->previewDeed() === '',
        );
    }

    /** The address of another page of the preview; null where there is none. */
    public function previewUrl(int $page, OrderPreview $preview): ?string
    {
        $of = '&of='.rawurlencode($this->previewOf())."&deed={$this->previewDeed()}&page=$page";

        return $page < 0 || $page * OrderPreview::LINES >= $preview->fitting ? null : $this->frame->url('preview', $of);
    }

    /** "201 to 400 of 1,203" */
    public function shownOf(OrderPreview $preview): string
    {
        $before = $this->page * OrderPreview::LINES;

        return number_format($preview->fitting === 0 ? 0 : $before + 1).' to '.number_format($before + count($preview->lines)).
            ' of '.number_format($preview->fitting);
    }

    /** Which lines the preview shows: those of one deed, "all", or '' for those that change something. */
    public function previewDeed(): string
    {
        $deed = $this->http->string('deed')->value();

        return $deed === 'all' || Deed::tryFrom($deed) !== null ? $deed : '';
    }

    /** The part of a path that they must have. */
    public function previewOf(): string
    {
        return mb_substr($this->http->string('of')->value(), 0, 200);
    }

    /** @return Collection<int, Workload> those it may be about */
    public function workloads(): Collection
    {
        return Workload::seenBy($this->user)->orderBy('name')->get();
    }
}
