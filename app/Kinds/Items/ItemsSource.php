<?php

declare(strict_types=1);

namespace App\Kinds\Items;

use App\Kinds\CanLeaveOut;
use App\Kinds\Items\Catalog\ItemCatalog;
use App\Kinds\Items\Live\LiveMailboxes;
use App\Kinds\Items\Live\MirrorSource;
use App\Kinds\MakingOrder;
use App\Kinds\Source;
use App\Kinds\SourcePlace;
use App\Models\BackupSet;
use App\Models\Workload;
use App\Trees\Making\FolderSource;
use Kaiseki\Core\Chain\Level;

/** A folder with mailboxes, or what their server says of them: sets are those of files, and which items there are is found at once. */
final readonly class ItemsSource implements CanLeaveOut, Source
{
    private Source $folder;

    public function __construct(private Workload $workload)
    {
        $live = LiveMailboxes::of($workload);
        $this->folder = $live === null ? new FolderSource($workload) : new MirrorSource($live);
    }

    public function levels(): array
    {
        return $this->folder->levels();
    }

    public function makes(Level $level): bool
    {
        return $this->folder->makes($level);
    }

    public function usualTimes(): array
    {
        return ['10 1 * * 0=full', '10 * * * *=incr'];
    }

    public function leftOutLike(): string
    {
        return '.Junk';
    }

    public function isKnown(): bool
    {
        return $this->folder->isKnown();
    }

    public function isGone(): bool
    {
        return $this->folder->isGone();
    }

    public function place(): ?SourcePlace
    {
        return $this->folder->place();
    }

    public function levelOfPresent(): string
    {
        return $this->folder->levelOfPresent();
    }

    public function make(MakingOrder $order): BackupSet
    {
        $set = $this->folder->make($order);
        [, $unread] = ItemCatalog::bringUpToDate($this->workload);
        if ($unread > 0) {
            $set->update(['remarks' => [...$set->remarks ?? [], "$unread files could not be read to see which items are in them."]]);
        }

        return $set;
    }
}
