<?php

declare(strict_types=1);

namespace App\Kinds\Items\Live;

use App\Kinds\MakingOrder;
use App\Kinds\Source;
use App\Kinds\SourcePlace;
use App\Models\BackupSet;
use App\Trees\Making\FolderProtection;
use App\Trees\Making\LevelsOfTree;
use App\Words;

/** Mailboxes that are read from their server. */
final readonly class MirrorSource implements Source
{
    use LevelsOfTree;

    public function __construct(private LiveMailboxes $live)
    {
    }

    public function usualTimes(): array
    {
        return ['10 1 * * 0=full', '10 * * * *=incr'];
    }

    public function isKnown(): bool
    {
        return true;
    }

    /** A server that is silent is not gone: sets that are due are missed, and that is told. */
    public function isGone(): bool
    {
        return false;
    }

    public function place(): SourcePlace
    {
        $count = Words::count(count($this->live->mailboxes), 'mailbox', 'mailboxes');

        return new SourcePlace('It is read from', $this->live->server->whereabouts(), ", $count");
    }

    public function make(MakingOrder $order): BackupSet
    {
        $mirror = new Mirror($this->live, $order->level->isFull());

        return (new FolderProtection($this->live->workload, $order, new MirrorOriginal($mirror)))->make();
    }
}
