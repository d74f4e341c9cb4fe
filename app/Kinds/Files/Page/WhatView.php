<?php

declare(strict_types=1);

namespace App\Kinds\Files\Page;

use App\Hosts\BinEntry;
use App\Hosts\HostBin;
use App\Hosts\Hosts;
use App\Jobs\TakeFromBin;
use App\Kinds\Files\Order\ChangedPaths;
use App\Models\BackupSet;
use App\Sets\LeftOut;
use App\Trees\Catalog\CatalogChild;
use App\Trees\Catalog\CatalogReader;
use App\Trees\Catalog\CatalogSearch;
use App\Trees\Catalog\ChildOrder;
use App\Trees\Catalog\FoundVersion;
use App\Trees\Catalog\TextIndex;
use App\Trees\Places\LibraryRecords;
use App\View\SearchForm;
use App\View\SearchHit;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\Cache;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\UnsafePath;
use Kaiseki\Core\Protect\Exclusions;

/** The What picker: the tree as it was, and the other ways to say what is wanted. */
final class WhatView
{
    public const WAYS = [
        'browse' => 'Look around',
        'find' => 'Search in it',
        'list' => 'Paste a list',
        'changes' => 'What vanished or changed',
        'bin' => 'The host’s bin',
    ];

    private const PAGE = 300;

    private const FOUND = 300;

    /** Of so many that are picked it is looked up what a library keeps of them. */
    private const DOCUMENTS = 20;

    public readonly string $by;

    /** The folder that is looked into. */
    public readonly string $folder;

    public readonly int $page;

    public readonly ChildOrder $order;

    public readonly bool $descending;

    /** What names begin with. */
    public readonly string $begins;

    public readonly SearchForm $form;

    private readonly ?BackupSet $point;

    /** @var list<BinEntry>|null */
    private ?array $bin = null;

    public function __construct(private readonly WorksheetView $view, Request $http)
    {
        $this->point = $view->sheet->point;
        $by = $http->string('by')->value();
        $this->by = isset(self::WAYS[$by]) ? $by : 'browse';
        try {
            $folder = EntryPath::of($http->string('folder')->value());
        } catch (UnsafePath) {
            $folder = '';
        }
        $this->folder = $this->point !== null && (new CatalogReader)->has($this->point, $folder) ? $folder : '';
        $this->page = max(0, $http->integer('page'));
        $this->order = ChildOrder::tryFrom($http->string('sort')->value()) ?? ChildOrder::Name;
        $this->descending = $http->boolean('down');
        $this->begins = mb_substr($http->string('begins')->value(), 0, 100);
        $this->form = new SearchForm($http, $view->user);
    }

    /** @return list<string> what a library keeps of the documents that are picked, and is not picked itself */
    public function besidePicked(): array
    {
        $picked = array_slice($this->view->sheet->selection, 0, self::DOCUMENTS);
        $beside = $this->point === null ? [] : (new LibraryRecords($this->point))->beside($picked);

        return array_values(array_filter($beside, function (string $path): bool {
            foreach ($this->view->sheet->selection as $selected) {
                if (EntryPath::isWithin($path, $selected)) {
                    return false;
                }
            }

            return true;
        }));
    }

    /** What the point leaves out on purpose. */
    public function leftOut(): Exclusions
    {
        return $this->point === null ? new Exclusions : LeftOut::ofSet($this->point);
    }

    /** The address of this way of picking, or another. */
    public function url(string $by, string $more = ''): string
    {
        return $this->view->frame->url('what', "&by=$by$more");
    }

    public function lookUrl(string $path): string
    {
        return "/sets/{$this->point?->id}/look?path=".rawurlencode($path);
    }

    public function versionsUrl(string $path): string
    {
        return "/workloads/{$this->view->request->workload_id}/versions?request={$this->view->request->id}&path=".
            rawurlencode($path);
    }

    /** Of a folder in the same order. */
    public function folderUrl(string $folder, int $page = 0, ?ChildOrder $order = null): string
    {
        $by = $order ?? $this->order;
        $down =
            $order === null
                ? $this->descending
                : ($order === $this->order
                    ? ! $this->descending
                    : $order !== ChildOrder::Name && $order !== ChildOrder::Mode);

        return $this->view->frame->url(
            'what',
            '&folder='.
                rawurlencode($folder).
                ($by === ChildOrder::Name ? '' : "&sort={$by->value}").
                ($down ? '&down=1' : '').
                ($page === 0 ? '' : "&page=$page").
                ($folder !== $this->folder || $this->begins === '' ? '' : '&begins='.rawurlencode($this->begins)),
        );
    }

    /** @return list<CatalogChild> */
    public function children(): array
    {
        return $this->point === null
            ? []
            : (new CatalogReader)->children(
                $this->point,
                $this->folder,
                self::PAGE,
                $this->page * self::PAGE,
                $this->order,
                $this->descending,
                $this->begins,
            );
    }

    /** @return array{int, int, int} children of the folder, first and last shown */
    public function extent(): array
    {
        $all = $this->point === null ? 0 : (new CatalogReader)->countChildren($this->point, $this->folder, $this->begins);

        return [$all, min($all, $this->page * self::PAGE + 1), min($all, ($this->page + 1) * self::PAGE)];
    }

    /**
     * @return list<array{string, string}> name and path of each folder from the top to the one looked into; of many the middle is left
     *     out
     */
    public function crumbs(): array
    {
        $crumbs = [[$this->view->request->workload->name ?? '', '']];
        $path = '';
        foreach ($this->folder === '' ? [] : explode('/', $this->folder) as $part) {
            $path = EntryPath::join($path, $part);
            $crumbs[] = [$part, $path];
        }

        return count($crumbs) <= 12
            ? $crumbs
            : [...array_slice($crumbs, 0, 3), ['…', $crumbs[count($crumbs) - 9][1]], ...array_slice($crumbs, -8)];
    }

    /** Selected itself, or below something that is. */
    public function isPicked(string $path): bool
    {
        foreach ($this->view->sheet->selection as $selected) {
            if (EntryPath::isWithin($path, $selected)) {
                return true;
            }
        }

        return false;
    }

    public function isPickedItself(string $path): bool
    {
        return in_array($path, $this->view->sheet->selection, true);
    }

    /** @return list<SearchHit> at this point */
    public function hits(): array
    {
        if ($this->point === null || $this->form->isEmpty() || $this->form->problem !== null) {
            return [];
        }
        $found = (new CatalogSearch)->find(
            $this->point->workload,
            $this->form->query($this->point->instant, $this->point->instant),
            self::FOUND,
        );

        return SearchHit::group(
            $this->point->workload,
            $found,
            fn (FoundVersion $version): ?string => $this->form->text === '' || $version->version->digest === null
                ? null
                : TextIndex::line($version->version->digest, $this->form->text),
        );
    }

    /** How much vanished since the point, as a word on what the button would pick. */
    public function vanished(): int
    {
        return $this->point === null ? 0 : count(ChangedPaths::vanished($this->point, $this->point->instant));
    }

    /** @return list<BinEntry> */
    public function bin(): array
    {
        $workload = $this->view->request->workload;

        $look = Hosts::original($workload?->source);

        return $this->bin ??= $look === null || $workload === null ? [] : HostBin::of($look, $workload->zone);
    }

    /** What of the bin may be what the request is about: the path that was asked for, or is selected, or the same name. */
    public function inBin(): ?BinEntry
    {
        $lost = $this->view->request->lost;
        foreach ($this->bin() as $entry) {
            if (
                $this->isPickedItself($entry->path) ||
                ($this->view->sheet->selection === [] &&
                    $lost !== null &&
                    strcasecmp(basename(str_replace('\\', '/', $lost)), basename($entry->path)) === 0)
            ) {
                return $entry;
            }
        }

        return null;
    }

    /** What came of taking something out of the bin: '' while it is under way, null if nothing was asked for lately. */
    public function toldOfBin(): ?string
    {
        $told = Cache::get(TakeFromBin::key($this->view->request->id));

        return is_string($told) ? $told : null;
    }
}
