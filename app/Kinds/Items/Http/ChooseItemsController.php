<?php

declare(strict_types=1);

namespace App\Kinds\Items\Http;

use App\Kinds\Items\Catalog\FoundItem;
use App\Kinds\Items\Catalog\ItemFinder;
use App\Kinds\Items\Order\ItemSelection;
use App\Kinds\Items\Order\ItemsSaid;
use App\Kinds\Items\Server\MailServer;
use App\Models\BackupSet;
use App\Models\RecoveryRequest;
use App\Models\Right;
use App\Models\TrailEntry;
use App\Models\User;
use App\Rights\PersonRights;
use Illuminate\Http\RedirectResponse;
use Illuminate\Validation\ValidationException;
use InvalidArgumentException;
use Kaiseki\Core\Instant;
use Kaiseki\Core\Mail\ItemQuery;

/** Settles a part of the order for items: the point, which of them, where they go, and how. */
final class ChooseItemsController
{
    /** What is settled => the picker that shows it. */
    private const SHOWN = ['point' => 'when', 'pick' => 'what', 'where' => 'where', 'how' => 'how'];

    public function __invoke(ItemChoiceRequest $request, RecoveryRequest $recoveryRequest): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        $settle = $request->string('settle')->value();
        match ($settle) {
            'point' => $this->point($request, $recoveryRequest, $user),
            'pick' => $this->pick($request, $recoveryRequest, $user),
            'where' => $this->where($request, $recoveryRequest, $user),
            default => ItemsSaid::of($recoveryRequest)
                ->with(conflict: $request->string('conflict')->value())
                ->keepOn($recoveryRequest)
                ->save(),
        };
        $more = $settle === 'point' ? $request->string('view')->value() : $this->back($request);

        return redirect("/requests/{$recoveryRequest->id}?show=".self::SHOWN[$settle].$more);
    }

    /** The place on the page from which it was picked. */
    private function back(ItemChoiceRequest $request): string
    {
        parse_str($request->string('back')->value(), $said);
        $known = array_filter(
            array_intersect_key($said, array_fill_keys(['q', 'mailbox', 'folder', 'ever', 'page', 'item', 'day'], true)),
            is_string(...),
        );

        return $known === [] ? '' : '&'.http_build_query($known);
    }

    private function point(ItemChoiceRequest $request, RecoveryRequest $of, User $user): void
    {
        $set = $request->filled('point')
            ? BackupSet::query()->where('workload_id', $of->workload_id)->findOrFail($request->integer('point'))
            : null;
        $of->update(['set_id' => $set?->id]);
        TrailEntry::add($set === null ? 'The proposed point is taken again.' : "The point {$set->name} was chosen by hand.", $of, $user);
    }

    private function pick(ItemChoiceRequest $request, RecoveryRequest $of, User $user): void
    {
        $said = ItemsSaid::of($of);
        $before = $said->selection()->items;
        $given = array_values(array_map(strval(...), (array) $request->input('items', [])));
        $one = $request->string('item')->value();
        $selection = match ($request->string('pick')->value()) {
            'ticked' => new ItemSelection(array_values(array_unique([...$before, ...$given]))),
            'only' => new ItemSelection([$one]),
            'drop' => new ItemSelection(array_values(array_diff($before, [$one]))),
            'found' => new ItemSelection(
                query: self::checked($request->string('q')->value(), $of->workload->zone ?? 'UTC'),
                ever: $request->boolean('ever'),
            ),
            'folder' => new ItemSelection([], '', $request->string('mailbox')->value(), $request->string('folder')->value()),
            'mailbox' => new ItemSelection([], '', $request->string('mailbox')->value()),
            'vanished' => new ItemSelection([], '', $request->string('mailbox')->value(), null, Instant::of(now())->iso()),
            'thread' => new ItemSelection(self::threadOf($of, $one)),
            default => new ItemSelection,
        };
        $said->with(selection: $selection->toArray())->keepOn($of)->save();
        if ($selection->query !== '') {
            TrailEntry::add("Picked was {$selection->words()}.", $of, $user);
        }
    }

    /** @return list<string> */
    private static function threadOf(RecoveryRequest $of, string $key): array
    {
        $workload = $of->workload;
        $item = $workload === null ? null : ItemFinder::named($workload, $key);
        if ($workload === null || $item === null) {
            throw ValidationException::withMessages(['item' => 'There is no such item.']);
        }

        return array_map(fn (FoundItem $one): string => $one->key(), ItemFinder::thread($workload, $item->thread));
    }

    private static function checked(string $query, string $zone): string
    {
        try {
            return ItemQuery::parse($query, $zone)->isEmpty() ? '' : $query;
        } catch (InvalidArgumentException $wrong) {
            throw ValidationException::withMessages(['q' => $wrong->getMessage()]);
        }
    }

    private function where(ItemChoiceRequest $request, RecoveryRequest $of, User $user): void
    {
        $name = $request->string('server')->value();
        $server = $name === '' ? null : MailServer::query()->where('name', $name)->firstOrFail();
        $because = $server === null ? null : PersonRights::of($user)->refuses(Right::Write, $server);
        if ($because !== null) {
            throw ValidationException::withMessages(['server' => $because]);
        }
        ItemsSaid::of($of)
            ->with(
                destination: $request->string('destination')->value(),
                server: $server?->name,
                mailbox: $request->string('to_mailbox')->value(),
                folder: $request->string('to_folder')->value(),
                form: $request->string('form')->value() ?: 'eml',
                sendTo: $request->string('send_to')->value(),
                awaits: $request->boolean('awaits'),
            )
            ->keepOn($of)
            ->save();
    }
}
