<?php

declare(strict_types=1);

namespace App\Kinds\Items\Order;

use App\Instance;
use App\Kinds\Items\Erased\ErasedList;
use App\Kinds\Items\Own\OwnOrder;
use App\Kinds\Items\Server\MailboxCheck;
use App\Kinds\Items\Server\MailServer;
use App\Kinds\Items\Server\TouchedMailboxes;
use App\Kinds\OrderSheet;
use App\Kinds\Touched;
use App\Looks\KeptLook;
use App\Models\BackupSet;
use App\Models\RecoveryRequest;
use App\Models\User;
use App\Models\Workload;
use App\Rights\PersonRights;
use App\Sets\CannotPlan;
use App\Sets\CopyChoices;
use App\Sets\Points;
use App\Trees\Places\PlanOfReading;
use App\Trees\Run\Targets;
use App\Words;
use InvalidArgumentException;
use Kaiseki\Core\Chain\Demands;
use Kaiseki\Core\Chain\FoundPoint;
use Kaiseki\Core\Chain\Reading;
use Kaiseki\Core\Instant;
use Kaiseki\Core\Proof\CheckLine;

/** What is settled for a request about mailboxes, what it means, and what still stands in the way of running it. */
final class ItemsSheet implements OrderSheet
{
    /** Of what is picked so much is said by name. */
    private const MAILBOXES_TOLD = 4;

    private const FOLDERS_TOLD = 6;

    public readonly Workload $workload;

    public readonly ItemsSaid $said;

    public readonly Points $points;

    public readonly Demands $demands;

    public readonly FoundPoint $found;

    /** The point in hand: the operator's own choice, or the proposed one. */
    public readonly ?BackupSet $point;

    public readonly ItemSelection $selection;

    /** @var list<ChosenItem> what is meant and may come back, as it lay at the point */
    public readonly array $chosen;

    /** @var list<array{ChosenItem, string}> what is meant, stays away, and why: see ErasedList */
    public readonly array $erased;

    /** Which server it goes to; null where none is known, and for files. */
    public readonly ?MailServer $server;

    public readonly ?ItemsOrder $order;

    public readonly ?PlanOfReading $reading;

    /** Why the selection means nothing, or may not be read. */
    private ?string $problem = null;

    /** @var list<CheckLine>|null */
    private ?array $lines = null;

    private ?KeptLook $look = null;

    public function __construct(public readonly RecoveryRequest $request)
    {
        assert($request->workload !== null);
        $this->workload = $request->workload;
        $this->said = ItemsSaid::of($request);
        $this->points = new Points($request->workload);
        $this->demands = Demands::parse($request->demands);
        $this->found = $this->points->find(Instant::of($request->wanted_at), $this->demands);
        $own = $this->points->sets[$request->set_id ?? 0] ?? null;
        $this->point = $own !== null ? $this->points->model($own) : $this->points->modelOf($this->found->set);
        $this->selection = $this->said->selection();
        [$this->chosen, $this->erased] = ErasedList::now()->apart($this->chosen());
        $this->server = $this->goesToServer() ? $this->server() : null;
        $this->order = $this->order();
        $this->reading = $this->reading();
    }

    public function request(): RecoveryRequest
    {
        return $this->request;
    }

    /** @return list<ChosenItem> */
    private function chosen(): array
    {
        if ($this->point === null || $this->selection->isEmpty()) {
            return [];
        }
        try {
            return $this->selection->at($this->workload, $this->point);
        } catch (InvalidArgumentException $wrong) {
            $this->problem = $wrong->getMessage();

            return [];
        }
    }

    private function goesToServer(): bool
    {
        return ! in_array($this->said->destination, ['files', 'send'], true);
    }

    private function server(): ?MailServer
    {
        return $this->said->server === null
            ? MailServer::of($this->workload)
            : MailServer::query()->where('name', $this->said->server)->first();
    }

    private function order(): ?ItemsOrder
    {
        if (
            $this->point === null || $this->chosen === [] || ($this->goesToServer() && $this->server === null) ||
            ($this->said->destination === 'mailbox' && $this->said->mailbox === '') ||
            ($this->said->destination === 'send' && $this->said->sendTo === '')
        ) {
            return null;
        }
        $order = new ItemsOrder(
            $this->selection,
            $this->server->name ?? '',
            $this->said->destination === 'mailbox' ? $this->said->mailbox : '',
            $this->said->folder,
            ItemConflict::from($this->said->conflict),
            $this->said->destination === 'files' ? $this->newFolder() : '',
            ItemForm::from($this->said->form),
            '',
            $this->request->copyRule(),
            $this->said->destination === 'send' ? $this->said->sendTo : '',
            $this->goesToServer() && $this->said->awaits,
            $this->said->ownOf,
            $this->goesToServer() && $this->said->awaits && $this->server?->makes !== null,
        );

        return $order->withSentence($this->sentence('UTC'));
    }

    /** One that is not there, or empty. */
    private function newFolder(): string
    {
        $folder = Instance::folder('restored')."/request-{$this->request->id}";
        for ($number = $this->request->runs->count() + 1; ! Targets::isNew($folder.($number > 1 ? "-$number" : '')); $number++) {
            continue;
        }

        return $folder.($number > 1 ? "-$number" : '');
    }

    private function reading(): ?PlanOfReading
    {
        if ($this->point === null || $this->chosen === []) {
            return null;
        }
        try {
            return ItemsReading::plan($this->points, $this->point, $this->chosen, $this->request->copyRule());
        } catch (CannotPlan $cannot) {
            $this->problem = $cannot->getMessage();

            return null;
        }
    }

    /** Bytes of what comes back. */
    public function bytes(): int
    {
        return array_sum(array_map(fn (ChosenItem $one): int => $one->item->size, $this->chosen));
    }

    /** @return array<string, array<string, int>> mailbox => folder => items that come from there */
    public function byFolder(): array
    {
        $count = [];
        foreach ($this->chosen as $one) {
            [$mailbox, $folder] = [$one->span->mailbox, $one->span->folder];
            $count[$mailbox][$folder] = ($count[$mailbox][$folder] ?? 0) + 1;
        }

        return $count;
    }

    /** @return array<string, string> mailbox => folders that items come from and how many, the first of both */
    public function foldersInWords(): array
    {
        return array_map(function (array $folders): string {
            $first = array_slice($folders, 0, self::FOLDERS_TOLD, true);
            $told = array_map(fn (int|string $folder, int $items): string => "$folder $items", array_keys($first), $first);
            $more = count($folders) - count($first);

            return implode(', ', $told).($more > 0 ? " and $more more" : '');
        }, array_slice($this->byFolder(), 0, self::MAILBOXES_TOLD, true));
    }

    /** The looking at the mailboxes that it goes into; null while that is not settled, and for files. */
    public function look(): ?KeptLook
    {
        return $this->order?->isToServer() === true
            ? ($this->look ??= KeptLook::of($this->request, new MailboxLook($this->request, [], $this)))
            : null;
    }

    /** @return list<CheckLine>|null what was found there; null if nobody looked yet */
    public function lines(): ?array
    {
        $kept = $this->look()?->found()['lines'] ?? null;

        return $this->lines ?? (is_array($kept) ? CheckLine::all($kept) : null);
    }

    public function lookAgain(): void
    {
        $this->lines = $this->order?->isToServer() === true ? MailboxCheck::of($this->order, $this->chosen)->lines : null;
    }

    public function blockers(): array
    {
        $blockers = $this->problem === null ? [] : [$this->problem];
        if ($this->point === null) {
            $blockers[] = 'No usable point at or before the wanted moment.';
        }
        if ($this->selection->isEmpty()) {
            $blockers[] = 'Nothing is picked yet.';
        } elseif ($this->chosen === [] && $this->problem === null && $this->point !== null) {
            $blockers[] = $this->erased === []
                ? 'Nothing of what is picked is at this point.'
                : 'All of it is on the list of what was erased: bin/kaiseki erased list.';
        }
        if ($this->said->destination === 'send' && $this->chosen !== []) {
            $refused = $this->said->sendTo === '' ? 'It is not said yet whom it is sent to.' : Sending::refuses($this->chosen);
            array_push($blockers, ...($refused === null ? [] : [$refused]));
        }
        if ($this->goesToServer() && $this->server === null) {
            $blockers[] = 'No mail server is known for it: bin/kaiseki mail-server add, or take files.';
        } elseif ($this->said->destination === 'mailbox' && $this->said->mailbox === '') {
            $blockers[] = 'The mailbox is not named yet.';
        }
        if ($this->reading !== null && $this->reading->files > 0 && $this->reading->missing >= $this->reading->files) {
            $blockers[] = 'None of it can be read from any archive.';
        }
        foreach (CheckLine::wrong($this->lines() ?? []) as $line) {
            $blockers[] = ucfirst($line->words());
        }
        if (in_array($this->request->state, ['running', 'closed'], true)) {
            $blockers[] = $this->request->state === 'running' ? 'A run for this request is at work.' : 'The request is closed.';
        }

        return $blockers;
    }

    public function sentence(string $zone): string
    {
        return sprintf(
            'Bring back %s of %s %s %s into %s, %s, and check %s.',
            $this->whatInWords(),
            $this->workload->name,
            $this->selection->asOf(),
            $this->whenInWords($zone),
            $this->whereInWords(),
            $this->conflictInWords(),
            $this->checkInWords(),
        );
    }

    public function whatInWords(): string
    {
        if ($this->selection->isEmpty()) {
            return 'something not picked yet';
        }

        return $this->selection->wordsFor($this->chosen);
    }

    public function checkInWords(): string
    {
        return $this->said->destination === 'send' ? 'each by digest as it is handed on' : ItemsOrder::checkInWords($this->chosen);
    }

    public function whenInWords(string $zone): string
    {
        return $this->point === null ? 'a moment with a usable point' : Words::moment($this->point->captured_at, $zone, $zone === 'UTC');
    }

    public function whereInWords(): string
    {
        $noun = ItemsOrder::folderInWords($this->chosen);
        $folder = $this->said->folder === '' ? "its own $noun" : "the $noun {$this->said->folder}";
        $then = $this->server?->makes === null ? 'waiting for it' : 'made anew';
        $waits = $this->said->awaits ? " ($then, if it is not there)" : '';

        return match ($this->said->destination) {
            'send' => 'a message to '.($this->said->sendTo === '' ? 'somebody not named yet' : $this->said->sendTo),
            'files' => 'a new folder of files, '.ItemForm::from($this->said->form)->words(),
            'mailbox' => "$folder of the mailbox ".($this->said->mailbox === '' ? 'not named yet' : $this->said->mailbox).
                ($this->server === null ? '' : " on {$this->server->name}").$waits,
            default => $folder.($this->server === null ? ' on a server not known yet' : " on {$this->server->name}").$waits,
        };
    }

    public function conflictInWords(): string
    {
        return ! $this->goesToServer()
            ? 'touching nothing there'
            : ItemsOrder::conflictInWords(ItemConflict::from($this->said->conflict), $this->chosen);
    }

    public function fingerprint(): string
    {
        $plan = $this->order?->toArray();
        unset($plan['sentence']);
        $keys = hash('sha256', implode("\n", array_map(fn (ChosenItem $one): string => $one->key(), $this->chosen)));

        return hash('sha256', json_encode([$plan, $this->point?->id, $keys], JSON_THROW_ON_ERROR));
    }

    public function touches(): Touched
    {
        return $this->order === null ? Touched::nothing() : TouchedMailboxes::by($this->order);
    }

    /** It adds to a mailbox of somebody who may not know of it, makes one, or leaves the house. */
    public function needsApproval(): bool
    {
        $isForTwo = $this->order?->isForTheLaw() === true || $this->order?->makes === true;

        return $isForTwo || ($this->order?->isToFolder() === false && $this->marked() !== []);
    }

    public function marked(): array
    {
        $marked = $this->workload->needs_approval ? [$this->workload->id => $this->workload] : [];
        foreach ($this->touches()->marked() as $workload) {
            $marked[$workload->id] = $workload;
        }

        return array_values($marked);
    }

    public function refusedTo(User $user): ?string
    {
        if ($this->said->ownOf === $user->id) {
            return OwnOrder::refuses($user, $this->workload, $this->order, $this->chosen);
        }
        $reach = PersonRights::of($user);
        $read = array_map(fn (Reading $reading): string => $reading->copy->store, $this->reading->list->readings ?? []);

        return $reach->refusesStores($this->request->copyRule()) ??
            ($reach->refusesReading(array_values(array_unique($read))) ?? $this->touches()->refusedTo($user));
    }

    public function previewCounts(): array
    {
        $erased = array_map(fn (array $one): ChosenItem => $one[0], $this->erased);
        $counts = $erased === [] ? [] : ['erased' => ItemCount::of($erased).' stay away: on the list of what was erased'];
        $counts += ['items' => ItemCount::of($this->chosen).', '.Words::size($this->bytes())];
        foreach ($this->lines() ?? [] as $number => $line) {
            $counts["line-$number"] = "{$line->words()}";
        }

        return $counts;
    }

    public function sets(): array
    {
        $sets = $this->point === null ? [] : [$this->point->id];
        foreach ($this->selection->ever ? $this->reading->list->readings ?? [] : [] as $reading) {
            $sets[] = $this->points->set($reading->set->id)->id ?? 0; // what was found at other points is kept with its sets too
        }

        return array_values(array_unique(array_filter($sets)));
    }

    public function copies(): CopyChoices
    {
        return new CopyChoices($this->points, $this->request, $this->reading, $this->reading);
    }

    /** It goes by one point, so not for what is looked for at all of them. */
    public function hasHandSheet(): bool
    {
        return $this->reading !== null && ! $this->selection->ever;
    }

    public function handSheet(): ?iterable
    {
        return $this->point === null || ! $this->hasHandSheet() || $this->reading === null
            ? null
            : ItemsHandSheet::script($this->points, $this->point, $this->chosen, $this->reading, $this->request->copyRule());
    }

    public function runAttributes(bool $setFirst): array
    {
        assert($this->order !== null);

        return [
            'set_id' => $this->point?->id,
            'plan' => $this->order->toArray(),
            'files_total' => count($this->chosen),
            'bytes_total' => $this->bytes(),
            'is_whole' => false,
        ];
    }
}
