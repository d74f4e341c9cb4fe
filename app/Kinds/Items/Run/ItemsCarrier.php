<?php

declare(strict_types=1);

namespace App\Kinds\Items\Run;

use App\Hosts\Hosts;
use App\Kinds\AwaitsOthers;
use App\Kinds\Carrier;
use App\Kinds\HandsOver;
use App\Kinds\Items\Order\ItemCount;
use App\Kinds\Items\Order\ItemsOrder;
use App\Kinds\Items\Server\AwaitedMailbox;
use App\Kinds\Items\Server\TouchedMailboxes;
use App\Kinds\PutBackTold;
use App\Kinds\Touched;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Models\User;
use App\Runs\RunFiles;
use App\Trees\Run\Targets;
use App\Words;
use Closure;
use Illuminate\Filesystem\Filesystem;
use Kaiseki\Core\Files\Journal;
use Kaiseki\Core\Files\RestoreOrder;

/** Runs that bring items back. */
final readonly class ItemsCarrier implements AwaitsOthers, Carrier, HandsOver
{
    /** @param  (Closure(string): void)|null  $told */
    public function __construct(private ?Closure $told = null)
    {
    }

    public function carryOut(Run $run): void
    {
        $told = $this->told;
        $also = $told === null ? null : fn (int $items, int $bytes) => $told(number_format($items).' items, '.Words::size($bytes));
        (new ItemsRun($also))->carryOut($run);
    }

    public function canBePutBack(Run $run): bool
    {
        return $run->put_back_at === null &&
            ItemsOrder::fromArray($run->plan)->isToServer() &&
            Journal::isBegun(RunFiles::journal($run)) &&
            ($run->set_aside_until !== null || ($run->outcome['set_aside'] ?? 0) === 0);
    }

    public function losesLaterChanges(): bool
    {
        return false;
    }

    public function putBack(Run $run, bool $alsoChanged): PutBackTold
    {
        return ItemsPutBack::of($run, $alsoChanged);
    }

    public function clearAside(Run $run, ?User $by): void
    {
        (new Filesystem)->deleteDirectory(CollectionJournal::asides($run));
        $run->update(['set_aside_until' => null]);
        TrailEntry::add("What run {$run->id} had replaced was removed from the set-aside.", $run->request, $by, $run);
    }

    public function clearStaged(Run $run): void
    {
        $order = ItemsOrder::fromArray($run->plan);
        $root = $order->isToFolder() ? Targets::root(null, $order->target) : '';
        if ($root !== '' && Hosts::look(null, $order->target, $root)->status('') !== null) {
            Hosts::target(null, $order->target, $root)->removeTree(RestoreOrder::stagingOf((string) $run->id));
        }
    }

    public function touches(Run $run): Touched
    {
        return TouchedMailboxes::by(ItemsOrder::fromArray($run->plan));
    }

    /** It was written down with the moment of the point in UTC. */
    public function sentence(Run $run, string $zone): string
    {
        return str_replace(Words::moment($run->point_at, 'UTC'), Words::moment($run->point_at, $zone), (string) $run->plan['sentence']);
    }

    public function came(Run $run): string
    {
        return ItemCount::came($run->outcome ?? []).', '.Words::size((int) ($run->outcome['bytes'] ?? 0));
    }

    public function howFar(Run $run): string
    {
        return number_format($run->files_done).' of '.number_format($run->files_total).' items';
    }

    public function besideProof(Run $run): array
    {
        return ['.entries.jsonl' => RunFiles::entries($run)];
    }

    public function hasCome(Run $run, string $what): bool
    {
        $order = ItemsOrder::fromArray($run->plan);

        return $order->awaits && AwaitedMailbox::hasCome($order->mailServer(), $what);
    }

    public function handsOver(Run $run): array
    {
        $zip = $run->state === 'done' ? WrittenZip::of($run->outcome ?? []) : null;

        return $zip === null ? [] : ["/runs/{$run->id}/zip" => "{$zip->name}, ".Words::size($zip->size)];
    }

    public function evidence(array $evidence): array
    {
        return $evidence + ['approval' => null, 'seen_as_user' => null];
    }
}
