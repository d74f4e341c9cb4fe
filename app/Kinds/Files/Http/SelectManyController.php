<?php

declare(strict_types=1);

namespace App\Kinds\Files\Http;

use App\Kinds\Files\Order\ChangedPaths;
use App\Kinds\Files\Order\PastedPaths;
use App\Kinds\Files\Order\Worksheet;
use App\Models\BackupSet;
use App\Models\RecoveryRequest;
use App\Models\User;
use App\Trees\Catalog\CatalogSearch;
use App\Trees\Catalog\FoundVersion;
use App\View\SearchForm;
use App\Words;
use Carbon\CarbonImmutable;
use Illuminate\Http\RedirectResponse;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\UnsafePath;

/** Adds many things to the selection at once: a pasted list, what a search found, what vanished or changed. */
final class SelectManyController
{
    public function __invoke(SelectManyRequest $request, RecoveryRequest $recoveryRequest): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        $do = $request->string('do')->value();
        $back = redirect(
            "/requests/{$recoveryRequest->id}?show=what&by=".
                ['paste' => 'list', 'vanished' => 'changes', 'changed' => 'changes', 'found' => 'find', 'ticked' => 'find'][$do],
        );
        $sheet = new Worksheet($recoveryRequest);
        $point = $sheet->point;
        if ($point === null) {
            return $back->withErrors(['do' => 'Settle the moment first: there is no point to pick from.']);
        }
        if ($do === 'paste') {
            return $this->paste($request, $sheet, $point, $back);
        }
        $since = CarbonImmutable::parse(
            $request->filled('since') ? $request->string('since')->value() : $point->captured_at->format('Y-m-d\TH:i:s.uP'),
            $user->zone,
        );
        $microseconds = $since->getTimestamp() * 1_000_000 + $since->microsecond;
        $paths = match ($do) {
            'vanished' => ChangedPaths::vanished($point, $microseconds),
            'changed' => ChangedPaths::changed($point, $microseconds),
            'found' => $this->found(new SearchForm($request, $user), $point),
            default => $this->ticked($request),
        };
        if ($paths === []) {
            return $back
                ->withErrors([
                    'do' => match ($do) {
                        'vanished' => 'Nothing of this point has vanished since.',
                        'changed' => 'Nothing changed in that span.',
                        default => 'Nothing was ticked.',
                    },
                ])
                ->withInput();
        }
        if (count($paths) > ChangedPaths::MOST) {
            return $back
                ->withErrors([
                    'do' => 'That is more than '.number_format(ChangedPaths::MOST).' things: pick the folder they are in instead.',
                ])
                ->withInput();
        }

        return $this->add($sheet, $paths, $back);
    }

    private function paste(
        SelectManyRequest $request,
        Worksheet $sheet,
        BackupSet $point,
        RedirectResponse $back,
    ): RedirectResponse {
        $pasted = new PastedPaths($request->string('list')->value(), $point);
        if ($pasted->absent !== []) {
            $back->with(
                'absent',
                array_map(
                    fn (string $written, ?string $guess): array => [$written, $guess === null ? null : rawurlencode($guess)],
                    array_map(strval(...), array_keys($pasted->absent)),
                    $pasted->absent,
                ),
            );
        }
        if ($pasted->there === []) {
            return $back->withErrors([
                'list' => $pasted->absent === [] ? 'The list is empty.' : 'None of that is in this point under these paths.',
            ]);
        }

        return $this->add($sheet, $pasted->there, $back);
    }

    /** @param  list<string>  $paths */
    private function add(Worksheet $sheet, array $paths, RedirectResponse $back): RedirectResponse
    {
        $sheet->said->select(EntryPath::outermost([...$sheet->selection, ...$paths]))->keepOn($sheet->request)->save();

        return $back->with('told', Words::count(count($paths), 'path').' picked.');
    }

    /** @return list<string> */
    private function found(SearchForm $form, BackupSet $point): array
    {
        return array_values(
            array_unique(
                array_map(
                    fn (FoundVersion $found): string => $found->path,
                    (new CatalogSearch)->find($point->workload, $form->query($point->instant, $point->instant), ChangedPaths::MOST + 1),
                ),
            ),
        );
    }

    /** @return list<string> */
    private function ticked(SelectManyRequest $request): array
    {
        $paths = [];
        foreach ($request->array('paths') as $path) {
            try {
                $paths[] = EntryPath::of(rawurldecode((string) $path));
            } catch (UnsafePath) {
                continue; // no page of ours has such a path
            }
        }

        return $paths;
    }
}
