<?php

declare(strict_types=1);

namespace App\Kinds\Items\Own;

use App\Kinds\Items\Order\ChosenItem;
use App\Kinds\Items\Order\ItemConflict;
use App\Kinds\Items\Order\ItemSelection;
use App\Kinds\Items\Order\ItemsOrder;
use App\Kinds\Items\Order\ItemsSaid;
use App\Kinds\Items\Order\ItemsSheet;
use App\Models\Approval;
use App\Models\RecoveryRequest;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Models\User;
use App\Models\Workload;
use App\Orders\Approvals;
use App\Orders\CannotOrder;
use App\Words;
use Illuminate\Support\Facades\DB;

/** An order by which a person brings back items of their own: into the very mailbox, within the rule of its workload. */
final readonly class OwnOrder
{
    /**
     * @param  list<string>  $items  see ItemSelection
     * @param  string  $folder  of the same mailbox; '' for the folder that each came from
     */
    public function __construct(
        public User $user,
        public OwnMailbox $box,
        public array $items,
        public string $folder = '',
        public ItemConflict $conflict = ItemConflict::MissingOnly,
    ) {
    }

    /** What it would be; nothing of it is kept. */
    public function sheet(): ItemsSheet
    {
        return new ItemsSheet($this->request());
    }

    /** Why it cannot be ordered as it stands; null if it can. */
    public function refused(ItemsSheet $sheet): ?string
    {
        return self::refuses($this->user, $sheet->workload, $sheet->order, $sheet->chosen) ?? $sheet->blockers()[0] ?? null;
    }

    /**
     * Begins it, or asks the second person where the workload is marked.
     *
     * @param  string  $seen  the fingerprint of what the person said yes to
     *
     * @throws CannotOrder if it is another one now, or may not be; then nothing is left of it
     */
    public function place(string $seen): Run|Approval
    {
        $isAsSeen = $this->sheet()->fingerprint() === $seen;
        $refused = self::isBusy($this->user) ?? ($isAsSeen ? null : 'It is not what was shown any more. Read it again, then say yes.');
        if ($refused !== null) {
            throw CannotOrder::because($refused);
        }

        return DB::transaction(function () use ($seen): Run|Approval {
            $request = $this->request();
            $request->save();
            TrailEntry::add('The request came in, with what is to come back chosen.', $request, $this->user);

            return Approvals::order($request, $this->user, $seen, false);
        });
    }

    /** Of nothing it means nothing: a mailbox without items would be all of it. */
    private function selection(): ItemSelection
    {
        return $this->items === [] ? new ItemSelection : new ItemSelection($this->items, mailbox: $this->box->name, ever: true);
    }

    private function request(): RecoveryRequest
    {
        $now = now()->toImmutable();
        $what = Words::count(count($this->items), 'item');
        $request = new RecoveryRequest([
            'workload_id' => $this->box->workload->id,
            'requester_id' => $this->user->id,
            'summary' => "$what of {$this->box->name}, brought back by its owner",
            'reason' => 'Brought back by the person whose it is.',
            'wanted_at' => $now,
            'wanted_zone' => $this->user->zone,
            'due_at' => $now->addHour(),
            'demands' => 'consistent',
            'state' => 'open',
        ]);
        $said = new ItemsSaid(
            selection: $this->selection()->toArray(),
            folder: $this->folder,
            conflict: $this->conflict->value,
            ownOf: $this->user->id,
        );

        return $said->keepOn($request);
    }

    /** One at a time: whoever wants more asks the desk. */
    private static function isBusy(User $user): ?string
    {
        $open = RecoveryRequest::query()->where('requester_id', $user->id)->where('state', 'running')->get()
            ->first(fn (RecoveryRequest $request): bool => ItemsSaid::of($request)->ownOf === $user->id);

        return $open === null ? null : "Request {$open->id} of yours is still at work: wait until it has ended.";
    }

    /**
     * Why a person may not bring this themselves; null if they may.
     *
     * @param  list<ChosenItem>  $chosen
     */
    public static function refuses(User $user, Workload $workload, ?ItemsOrder $order, array $chosen): ?string
    {
        $names = array_values(array_unique(array_map(fn (ChosenItem $one): string => $one->span->mailbox, $chosen)));
        $box = count($names) === 1 ? OwnMailbox::named($user, $workload, $names[0]) : null;
        $bytes = array_sum(array_map(fn (ChosenItem $one): int => $one->item->size, $chosen));

        return match (true) {
            $chosen === [] => 'Nothing of it is there.',
            $box === null => 'Only what is in a mailbox of your own can be brought back by yourself, and only where a rule of '.
                "{$workload->name} allows it.",
            $order === null || ! $order->isToServer() || ! in_array($order->mailbox, ['', $box->name], true) => 'It comes back into the '.
                'mailbox that it was in, and nowhere else: no server is known that it is on.',
            count($chosen) > $box->rule->most_items || $bytes > $box->rule->bytes() => Words::count(count($chosen), 'item').', '.
                Words::size($bytes).": that is more than is brought back by oneself ({$box->rule->words()}). Ask the desk for it.",
            default => null,
        };
    }
}
