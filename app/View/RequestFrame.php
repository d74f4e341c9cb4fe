<?php

declare(strict_types=1);

namespace App\View;

use App\Jobs\BringSetsNear;
use App\Kinds\OrderSheet;
use App\Models\Approval;
use App\Models\RecoveryRequest;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Models\User;
use App\Sets\BringingProgress;
use Illuminate\Http\Request;
use Illuminate\Support\Collection;
use InvalidArgumentException;
use Kaiseki\Core\Instant;
use Kaiseki\Core\Order\WantedSpan;
use Kaiseki\Core\Order\WantedWords;

/** What the page of a request has whatever its kind: the picker in hand, and what the person may do. */
final readonly class RequestFrame
{
    /** picker => its name and its key */
    public const PICKERS = [
        'when' => ['When', 'w'],
        'what' => ['What', 't'],
        'where' => ['Where', 'd'],
        'how' => ['How', 'h'],
        'preview' => ['Preview', 'p'],
        'run' => ['Run', 'r'],
        'proof' => ['Proof', 'o'],
    ];

    /** Those that stand in the row of keys; the others are buttons. */
    public const IN_ROW = ['when', 'what', 'where', 'how', 'proof'];

    public string $picker;

    public string $zone;

    public bool $canWork;

    public bool $canAnswer;

    public function __construct(public RecoveryRequest $request, public User $user, Request $http)
    {
        $this->zone = $user->zone;
        $this->canWork = $user->can('work', $request);
        $this->canAnswer = $user->can('answer', $request);
        $asked = $http->string('show')->value();
        $default = $request->runs->isNotEmpty() ? 'proof' : ($this->canWork ? 'when' : 'proof');
        $this->picker = isset(self::PICKERS[$asked]) && ($this->canWork || $asked === 'proof') ? $asked : $default;
    }

    public function url(string $picker, string $more = ''): string
    {
        return "/requests/{$this->request->id}?show=$picker$more";
    }

    /** How the words for the wanted moment were taken; null where it was plain. */
    public function wantedSpan(): ?WantedSpan
    {
        if ($this->request->wanted_words === null) {
            return null;
        }
        try {
            return (new WantedWords(
                Instant::of($this->request->wanted_said_at ?? $this->request->created_at),
                $this->request->wanted_zone ?? 'UTC',
            ))->read($this->request->wanted_words);
        } catch (InvalidArgumentException) {
            return null;
        }
    }

    /** @return list<string> why an order cannot be begun by this person */
    public function blockers(OrderSheet $sheet): array
    {
        return array_values(array_filter([...$sheet->blockers(), $sheet->refusedTo($this->user)]));
    }

    /** How far the sets are that somebody wants nearer; null if nothing is brought. */
    public function bringing(): ?BringingProgress
    {
        return BringSetsNear::progress($this->request);
    }

    /** The question for approval that nobody has answered yet. */
    public function openApproval(): ?Approval
    {
        return $this->request
            ->approvals()
            ->with('asker')
            ->where('state', 'asked')
            ->where('workload_id', $this->request->workload_id)
            ->first();
    }

    public function run(): ?Run
    {
        return $this->request->runs->first(fn (Run $run): bool => $this->user->can('view', $run));
    }

    /** @return Collection<int, TrailEntry> newest first */
    public function trail(): Collection
    {
        return TrailEntry::of($this->request, $this->user);
    }
}
