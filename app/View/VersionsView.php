<?php

declare(strict_types=1);

namespace App\View;

use App\Hosts\Hosts;
use App\Models\RecoveryRequest;
use App\Models\User;
use App\Models\Workload;
use App\Sets\Points;
use App\Sets\SetOutline;
use App\Trees\Catalog\CatalogReader;
use App\Trees\Catalog\FoundVersion;
use App\Words;
use Illuminate\Support\Collection;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Catalog\Shown;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\Doubt\ContentTexture;
use Kaiseki\Core\Doubt\SuddenChange;
use Kaiseki\Core\Files\Permissions;
use Kaiseki\Core\Files\Status;

/** The life of one path: each version of it, when it vanished, and where its content went. */
final class VersionsView
{
    /** Of the drawing, in units of its own. */
    public const WIDTH = 1000;

    public readonly Points $points;

    /** @var list<FoundVersion> oldest first */
    public readonly array $versions;

    public readonly string $zone;

    private ?LastGood $lastGood = null;

    private bool $isLooked = false;

    /** @param  int  $request  the one from whose page somebody came, or that they chose here; 0 for none */
    public function __construct(
        public readonly Workload $workload,
        public readonly string $path,
        public readonly User $user,
        private readonly int $request = 0,
    ) {
        $this->points = new Points($workload);
        $this->versions = (new CatalogReader)->versionsOf($workload, $path);
        $this->zone = $user->zone;
    }

    /** The newest point at which a version was so; null if none is left. */
    public function pointOf(FoundVersion $version): ?SetOutline
    {
        $last = null;
        foreach ($this->points->sets as $set) {
            if ($set->history === $version->history && $set->instant >= $version->first && $set->instant < $version->until) {
                $last = $set;
            }
        }

        return $last;
    }

    /** As what a version is marked in the drawing. */
    public function markOf(FoundVersion $version, ?FoundVersion $good): string
    {
        return match (true) {
            $version->id === ($good->id ?? null) => 'good',
            $version->version->size === 0 => 'empty',
            ContentTexture::of($version->version->texture)->isHigh() => 'noise',
            default => '',
        };
    }

    public function points(FoundVersion $version): int
    {
        return count(
            array_filter(
                $this->points->sets,
                fn (SetOutline $set): bool => $set->history === $version->history &&
                    $set->instant >= $version->first &&
                    $set->instant < $version->until,
            ),
        );
    }

    public function lastGood(): ?LastGood
    {
        return $this->isLooked ? $this->lastGood : $this->findLastGood();
    }

    private function findLastGood(): ?LastGood
    {
        $this->isLooked = true;
        $chain = [];
        $of = [];
        foreach ($this->versions as $i => $version) {
            $before = $this->versions[$i - 1] ?? null;
            if ($before !== null && $before->until < $version->first) {
                $chain[] = null;
                $of[] = $before;
            }
            $chain[] = $version->version;
            $of[] = $version;
        }
        $last = $this->last();
        if ($last !== null && $last->until !== PHP_INT_MAX) {
            $chain[] = null;
            $of[] = $last;
        }
        if (
            $last !== null &&
            $last->until === PHP_INT_MAX &&
            Hosts::original($this->workload->source)?->status('')?->type === Status::FOLDER
        ) {
            $chain[] = $this->liveVersion($last->version);
            $of[] = $last;
        }
        $change = SuddenChange::lastIn($chain);

        return $this->lastGood = $change === null ? null : new LastGood($of[$change->good], $change->because);
    }

    /** Mode, owner and group as a long listing has them, with a plus where there is an access list (POSIX.1-2017, ls). */
    public static function permissions(Version $version): string
    {
        return Permissions::modeInWords($version->mode).($version->access === '' ? ' ' : '+ ').
            Shown::name($version->owner());
    }

    public function last(): ?FoundVersion
    {
        return $this->versions === [] ? null : $this->versions[count($this->versions) - 1];
    }

    /** What stands there now, as far as it can be told without reading it; null if nothing does. */
    private function liveVersion(Version $last): ?Version
    {
        $live = $this->live();

        return $live === null
            ? null
            : new Version(
                $live->type === Status::FILE ? EntryKind::File : EntryKind::Folder,
                $live->size,
                $live->mtime,
                null,
                $live->mode,
                $live->uid,
                $live->gid,
                '',
                '',
                texture: $live->size === $last->size ? $last->texture : 0,
            );
    }

    /** @return list<FoundVersion> where the content of the last version turned up when this path vanished, or while it was there */
    public function elsewhere(): array
    {
        $last = $this->last();

        return $last === null || $last->version->digest === null || $last->version->size <= 0
            ? []
            : (new CatalogReader)->sameContent(
                $this->workload,
                $last->version->digest,
                $this->path,
                $last->until === PHP_INT_MAX ? $last->first : $last->until - 1,
            );
    }

    /** What stands there now on the host; null if nothing does, or nobody can look. */
    public function live(): ?Status
    {
        return Hosts::original($this->workload->source)?->status($this->path);
    }

    public function liveInWords(): string
    {
        $live = $this->live();

        return match (true) {
            $live === null => 'nothing of that name',
            $live->type === Status::FILE => Words::size($live->size).', changed '.
                Words::instant(intdiv($live->mtime, 1000), $this->zone),
            default => 'a '.$live->typeInWords(),
        };
    }

    /** Whether it is the one before a sudden change. */
    public function isGood(FoundVersion $version): bool
    {
        return $this->lastGood()?->version->id === $version->id;
    }

    /** @return list<VersionBar> from the first point to the newest */
    public function strip(): array
    {
        $sets = array_values($this->points->sets);
        if ($sets === [] || $this->versions === []) {
            return [];
        }
        [$from, $to] = $this->axis();
        $bars = [];
        foreach ($this->versions as $i => $version) {
            $x = (($version->first - $from) / ($to - $from)) * self::WIDTH;
            $end = ((min($version->until, $to) - $from) / ($to - $from)) * self::WIDTH;
            $bars[] = new VersionBar(round($x, 2), round(max(2.0, $end - $x), 2), $version, $i % 2 === 1);
        }

        return $bars;
    }

    /** @return array{int, int} the first point and now, in microseconds */
    public function axis(): array
    {
        $instants = array_map(fn (SetOutline $set): int => $set->instant, array_values($this->points->sets));
        $from = min($instants);
        $to = max($instants);

        return [$from, max($to, (int) (microtime(true) * 1e6), $from + 1)];
    }

    /** @return Collection<int, RecoveryRequest> of this workload, that it can be picked for */
    public function requests(): Collection
    {
        return RecoveryRequest::seenBy($this->user)
            ->where('workload_id', $this->workload->id)
            ->where('state', '<>', 'closed')
            ->orderBy('due_at')
            ->limit(20)
            ->get();
    }

    /**
     * The request that a version is picked for: the one in hand, or the only one.
     *
     * @param  Collection<int, RecoveryRequest>  $requests
     */
    public function forRequest(Collection $requests): ?RecoveryRequest
    {
        return $requests->firstWhere('id', $this->request) ?? ($requests->count() === 1 ? $requests->first() : null);
    }

    public static function entropy(Version $version): string
    {
        $texture = ContentTexture::of($version->texture);

        return match (true) {
            $version->kind !== EntryKind::File, ! $texture->isKnown() => '',
            $texture->isDense() => 'packed',
            default => number_format((float) $texture->entropy(), 1),
        };
    }
}
