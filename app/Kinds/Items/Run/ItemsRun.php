<?php

declare(strict_types=1);

namespace App\Kinds\Items\Run;

use App\Kinds\Items\Catalog\ItemReader;
use App\Kinds\Items\Catalog\KeywordMeanings;
use App\Kinds\Items\Erased\ErasedList;
use App\Kinds\Items\Order\CannotBringItems;
use App\Kinds\Items\Order\ChosenItem;
use App\Kinds\Items\Order\ItemCount;
use App\Kinds\Items\Order\ItemsOrder;
use App\Kinds\Items\Order\ItemsReading;
use App\Models\Run;
use App\Runs\RunLedger;
use App\Runs\RunMustWait;
use App\Runs\RunProgress;
use App\Runs\RunRefusal;
use App\Runs\SetAsides;
use App\Runs\Shelf;
use App\Runs\TargetLock;
use App\Sets\CannotPlan;
use App\Sets\Points;
use App\Words;
use Closure;
use DateTimeZone;
use InvalidArgumentException;
use Kaiseki\Core\Files\UnableToRestore;
use Kaiseki\Core\Mail\Dav\DavFailure;
use Kaiseki\Core\Mail\Imap\ImapFailure;
use Kaiseki\Core\Proof\CheckLine;
use Throwable;

/** Carries out the bringing of items, step by step. After a crash it is carried out again, and goes on where it was. */
final class ItemsRun
{
    public const STEPS = ['lock the target', 'look at the target', 'attach the media', 'bring', 'check there'];

    private Run $run;

    private RunLedger $ledger;

    private ItemsOrder $order;

    /** @param  (Closure(int, int): void)|null  $also  told items and bytes brought so far */
    public function __construct(private readonly ?Closure $also = null)
    {
    }

    public function carryOut(Run $run): void
    {
        $this->run = $run;
        $this->ledger = new RunLedger($run);
        if (! $this->ledger->claim(self::STEPS)) {
            return;
        }
        $this->order = ItemsOrder::fromArray($run->plan);
        $account = new ItemsAccount($run, new RunProgress($run, $this->also));
        try {
            $this->carry($account);
        } catch (RunMustWait $wait) {
            $this->ledger->wait($wait);
        } catch (CannotBringItems|CannotPlan|DavFailure|ImapFailure|UnableToRestore|InvalidArgumentException $failure) {
            $this->ledger->fail($failure->getMessage(), $run->refresh()->stop_asked ? 'stopped' : 'failed', $this->whatWasDone());
        } catch (Throwable $bug) {
            $this->ledger->fail('Something went wrong that should not have: '.$bug->getMessage(), 'failed', $this->whatWasDone());
            throw $bug;
        }
    }

    private function whatWasDone(): string
    {
        $laid = $this->order->isToServer()
            ? count((new MailJournal($this->run))->laid) + count((new CollectionJournal($this->run))->laid)
            : 0;

        return $laid === 0 ? '' : ' '.Words::count($laid, 'item').' that it had laid before are there: go on with it, or put it back.';
    }

    private function carry(ItemsAccount $account): void
    {
        RunRefusal::check($this->run);
        $points = new Points($this->run->workload);
        [$chosen, $erased] = ErasedList::now()->apart($this->order->selection->at($this->run->workload, $this->run->set));
        foreach ($erased as [$one, $why]) {
            $account->left($one, "it is on the list of what was erased: $why", false);
        }
        if ($chosen === []) {
            throw CannotBringItems::because(
                $erased === [] ? 'Nothing of what was chosen is at this point.'
                    : 'All of what was chosen is on the list of what was erased.',
            );
        }
        $placing = $this->placing($account, $points);
        $locks = $placing->locks($chosen);
        $taken = [];
        try {
            $this->ledger->step(0, function () use ($locks, &$taken): string {
                foreach ($locks as $lock => $words) {
                    TargetLock::take($lock, 'items', $words);
                    $taken[] = $lock;
                }

                return implode(', ', array_slice($locks, 0, 5)).(count($locks) > 5 ? ' and more' : '');
            });
            $this->ledger->step(1, fn (): string => $placing->look($chosen));
            $this->ledger->step(2, fn (): string => $this->attach($points, $chosen));
            $this->ledger->step(3, fn (): string => $placing->bring($chosen));
            $account->progress->tell();
            $this->ledger->step(4, fn (): string => $placing->check($chosen));
            $this->finish($account);
        } finally {
            foreach ($taken as $lock) {
                TargetLock::free($lock, 'items');
            }
            $points->stores->release();
        }
    }

    private function placing(ItemsAccount $account, Points $points): ItemPlacing
    {
        $reader = new ItemReader($points);

        if (! $this->order->isToServer()) {
            return $this->order->isToFolder()
                ? new IntoFolder($this->order, $account, $reader)
                : new IntoMessage($this->order, $account, $reader);
        }
        $zone = new DateTimeZone($this->run->workload->zone);

        return new IntoServer(
            new IntoMailboxes($this->order, $account, new MailJournal($this->run), $reader, new KeywordMeanings($this->run->set)),
            new IntoCollections($this->order, $account, new CollectionJournal($this->run), $reader, $zone),
        );
    }

    /**
     * @param  list<ChosenItem>  $chosen
     *
     * @throws RunMustWait if a cartridge that is needed stands on the shelf
     */
    private function attach(Points $points, array $chosen): string
    {
        $reading = ItemsReading::plan($points, $this->run->set, $chosen, $this->order->copies);
        $whole = $reading->estimate()->whole;
        $this->run->update([
            'files_total' => count($chosen),
            'bytes_total' => array_sum(array_map(fn (ChosenItem $one): int => $one->item->size, $chosen)),
            'estimate' => $this->run->estimate ?? [
                'likely' => round($whole->likely, 2), 'least' => round($whole->least, 2), 'most' => round($whole->most, 2),
                'lanes' => $reading->lanes(),
            ],
        ]);

        return Shelf::attach($this->run, $reading->estimate()->toFetch, $reading->media());
    }

    private function finish(ItemsAccount $account): void
    {
        $run = $this->run;
        $outcome = [
            'messages' => $account->items,
            'sorts' => $account->sorts,
            'bytes' => $account->bytes,
            'there' => $account->there,
            'folders' => $account->folders,
            'checks' => CheckLine::kept($account->checks),
            'left_out' => $account->left,
            'left_out_count' => $account->leftCount,
            'right' => $account->isRight(),
            'set_aside' => $account->replaced,
            'commands' => [],
            'entries' => $account->finish(),
        ] + ($account->bag === '' ? [] : ['bag' => $account->bag]) + ($account->zip === null ? [] : ['zip' => $account->zip->toArray()]);
        $until = $account->replaced > 0 ? now()->addDays(SetAsides::DAYS) : null;
        $run->update(['state' => 'done', 'outcome' => $outcome, 'ended_at' => now(), 'set_aside_until' => $until]);
        ItemsProof::write($run, $this->order, $outcome);
        $this->ledger->tell(
            sprintf(
                'Run %d ended: %s, %s.',
                $run->id,
                ItemCount::words($account->sorts),
                $account->isRight() ? 'all right' : 'not all right',
            ),
            'answer',
        );
    }
}
