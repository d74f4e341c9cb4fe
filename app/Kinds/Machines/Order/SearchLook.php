<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Order;

use App\Kinds\Look;
use App\Kinds\Machines\Disks\MachineSearch;
use App\Models\RecoveryRequest;
use App\Models\Workload;
use App\Sets\Points;
use App\Sets\SetOutline;
use App\Trees\Catalog\FoundVersion;
use App\Trees\Catalog\SearchQuery;
use App\Trees\Catalog\VersionRow;
use Closure;
use Kaiseki\Core\Catalog\Shown;

/** Looks for a file inside a machine in all its points, by a part of its name. */
final readonly class SearchLook implements Look
{
    /** Versions that are shown. */
    private const MOST = 200;

    private ?Workload $workload;

    public string $words;

    /** @param  array<string, string>  $asked  q: what is looked for */
    public function __construct(RecoveryRequest $request, array $asked)
    {
        $this->workload = $request->workload;
        $this->words = $asked['q'] ?? '';
    }

    public function title(): string
    {
        return 'files called "'.Shown::name($this->words).'" in all points';
    }

    public function fingerprint(): string
    {
        $newest = $this->workload?->sets()->max('id');

        return hash('sha256', implode("\0", ['search', $this->words, (string) $this->workload?->id, (string) $newest]));
    }

    public function take(Closure $told): array
    {
        if ($this->workload === null || trim($this->words) === '') {
            return ['rows' => [], 'notes' => ['Say what to look for.']];
        }
        $points = new Points($this->workload);
        $search = new MachineSearch($points, new SearchQuery($this->words), self::MOST);
        $rows = array_map(fn (FoundVersion $found): array => self::row($points, $found), $search->run($told));
        $notes = $search->isCut ? ['These are the first '.self::MOST.'; say more of the name.', ...$search->notes] : $search->notes;

        return ['rows' => $rows, 'notes' => $notes];
    }

    /** @return array<string, mixed> */
    private static function row(Points $points, FoundVersion $found): array
    {
        return [
            'path' => rawurlencode($found->path),
            'shown' => Shown::name("/{$found->path}"),
            'kind' => VersionRow::kind($found->version),
            'size' => $found->version->size,
            'changed' => intdiv($found->version->mtime, 1_000_000_000),
            'first' => intdiv($found->first, 1_000_000),
            'until' => $found->until === PHP_INT_MAX ? null : intdiv($found->until, 1_000_000),
            'point' => self::lastWith($points, $found)?->id,
        ];
    }

    /** The newest point that has it and can be read. */
    private static function lastWith(Points $points, FoundVersion $found): ?SetOutline
    {
        $last = null;
        foreach ($points->sets as $set) {
            $has = $set->history === $found->history && $set->instant >= $found->first && $set->instant < $found->until;
            $last = $has && $points->usable($set) !== 'no' ? $set : $last;
        }

        return $last;
    }
}
