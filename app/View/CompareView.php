<?php

declare(strict_types=1);

namespace App\View;

use App\Hosts\Hosts;
use App\Models\User;
use App\Models\Workload;
use App\Trees\Catalog\FoundVersion;
use App\Trees\Places\OneFile;
use App\Words;
use Kaiseki\Core\Archive\ContentDigest;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Content\Form;
use Kaiseki\Core\Content\TableDifference;
use Kaiseki\Core\Content\TextDifference;
use Kaiseki\Core\Files\Status;

/** Two versions of one path beside each other, or one and what stands there now. */
final class CompareView
{
    private const LARGEST = 64 << 20;

    public readonly VersionsView $life;

    public readonly ?FoundVersion $old;

    /** Null: what stands there now. */
    public readonly ?FoundVersion $new;

    public readonly bool $withLive;

    /** @var array<string, SeenContent|null> */
    private array $seen = [];

    public function __construct(public readonly Workload $workload, public readonly string $path, string $old, string $new, User $user)
    {
        $this->life = new VersionsView($workload, $path, $user);
        $find = function (string $id): ?FoundVersion {
            foreach ($this->life->versions as $version) {
                if ((string) $version->id === $id) {
                    return $version;
                }
            }

            return null;
        };
        $this->withLive = $new === 'live';
        $this->old = $find($old);
        $this->new = $find($new);
    }

    public function inWords(bool $old): string
    {
        $version = $old ? $this->old : $this->new;

        return $version === null ? 'what stands there now' : 'as of '.Words::instant($version->first, $this->life->zone);
    }

    public function isComplete(): bool
    {
        return $this->old !== null && ($this->new !== null || ($this->withLive && $this->life->live() !== null));
    }

    /** What is compared as; other where only size, time and digest can be. */
    public function form(): Form
    {
        $old = $this->seen(true);
        $new = $this->seen(false);

        return match (true) {
            $old === null || $new === null => Form::Other,
            $old->form === $new->form => $old->form,
            $old->text !== null && $new->text !== null => Form::Text,
            default => Form::Other,
        };
    }

    public function text(): ?TextDifference
    {
        $old = $this->seen(true)?->text;
        $new = $this->seen(false)?->text;

        return $old === null || $new === null ? null : TextDifference::between($old, $new);
    }

    public function table(): TableDifference
    {
        return TableDifference::between($this->seen(true)?->rows() ?? [], $this->seen(false)?->rows() ?? []);
    }

    public function seen(bool $old): ?SeenContent
    {
        $key = $old ? 'old' : 'new';
        if (! array_key_exists($key, $this->seen)) {
            $version = $old ? $this->old : $this->new;
            $this->seen[$key] = $version === null ? $this->readLive() : $this->read($version);
        }

        return $this->seen[$key];
    }

    /** The address of the picture, drawn anew; null for what stands there now. */
    public function picture(bool $old): ?string
    {
        $version = $old ? $this->old : $this->new;
        $set = $version === null ? null : $this->life->pointOf($version);

        return $set === null ? null : "/sets/{$set->id}/picture?path=".rawurlencode($this->path);
    }

    private function read(FoundVersion $found): ?SeenContent
    {
        $set = $this->life->pointOf($found);
        $version = $found->version;
        if ($set === null || $version->kind !== EntryKind::File || $version->size < 0 || $version->size > self::LARGEST) {
            return null;
        }
        $stream = OneFile::read($this->life->points->model($set), $version);

        return $stream === null ? null : SeenContent::of($stream, basename($this->path), $version->size, (string) $version->digest);
    }

    private function readLive(): ?SeenContent
    {
        $look = Hosts::original($this->workload->source);
        $status = $look?->status($this->path);
        if ($look === null || $status === null || $status->type !== Status::FILE || $status->size > self::LARGEST) {
            return null;
        }
        $stream = $look->read($this->path);

        return $stream === null
            ? null
            : SeenContent::of($stream, basename($this->path), $status->size, $look->digest($this->path) ?? ContentDigest::of(''));
    }
}
