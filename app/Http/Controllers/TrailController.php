<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Models\TrailEntry;
use App\Models\TrailSort;
use App\Models\User;
use App\Trail\TrailExport;
use App\View\TrailFilter;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\StreamedResponse;

/** The trail, for auditors: the newest first, page by page however long it is, and as lines of JSON with their seals. */
final class TrailController
{
    private const A_PAGE = 100;

    public function index(Request $request): View
    {
        $user = $request->user();
        assert($user instanceof User);
        $filter = new TrailFilter($request, $user);

        return view('trail.index', [
            'filter' => $filter,
            'zone' => $user->zone,
            'entries' => $filter->entries()->orderByDesc('id')->cursorPaginate(self::A_PAGE)->withQueryString(),
        ]);
    }

    public function export(Request $request): StreamedResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        $filter = new TrailFilter($request, $user);
        TrailEntry::add(
            'Took the trail'.($filter->address() === '' ? '.' : ': '.urldecode($filter->address())),
            null,
            $user,
            sort: TrailSort::Content,
        );

        return new StreamedResponse(
            function () use ($filter): void {
                foreach (TrailExport::lines($filter->entries()->toBase()) as $line) {
                    echo $line;
                }
            },
            200,
            ['Content-Type' => 'application/x-ndjson', 'Content-Disposition' => 'attachment; filename="trail.jsonl"'],
        );
    }
}
