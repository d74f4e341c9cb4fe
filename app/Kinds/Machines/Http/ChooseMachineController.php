<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Http;

use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Kinds\Machines\Order\MachineSaid;
use App\Kinds\Machines\Order\PlacementWish;
use App\Models\BackupSet;
use App\Models\Host;
use App\Models\RecoveryRequest;
use App\Models\Right;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Models\User;
use App\Rights\PersonRights;
use Carbon\CarbonImmutable;
use Illuminate\Http\RedirectResponse;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\UnsafePath;

/** Settles a part of the order for a machine: its point, its disks, where their images go. */
final class ChooseMachineController
{
    public function __invoke(MachineChoiceRequest $request, RecoveryRequest $recoveryRequest): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);

        return match ($request->string('settle')->value()) {
            'point' => $this->point($request, $recoveryRequest, $user),
            'disks' => $this->disks($request, $recoveryRequest),
            'files' => $this->files($request, $recoveryRequest, $user),
            'how' => $this->how($request, $recoveryRequest),
            'way' => $this->way($request, $recoveryRequest),
            'place' => $this->place($request, $recoveryRequest, $user),
            default => $this->where($request, $recoveryRequest, $user),
        };
    }

    private function point(MachineChoiceRequest $request, RecoveryRequest $of, User $user): RedirectResponse
    {
        $set = $request->filled('point')
            ? BackupSet::query()->where('workload_id', $of->workload_id)->findOrFail($request->integer('point'))
            : null;
        $of->update(['set_id' => $set?->id]);
        TrailEntry::add($set === null ? 'The proposed point is taken again.' : "The point {$set->name} was chosen by hand.", $of, $user);

        return redirect("/requests/{$of->id}?show=when".$request->string('view')->value());
    }

    private function disks(MachineChoiceRequest $request, RecoveryRequest $of): RedirectResponse
    {
        MachineSaid::of($of)
            ->with(disks: array_values(array_map(strval(...), (array) $request->input('disks', []))), paths: [], into: '')
            ->keepOn($of)
            ->save();

        return redirect("/requests/{$of->id}?show=what")->with('told', 'The order line has it.');
    }

    /** A file that was found in another point than the one in hand is taken with that point. */
    private function takePoint(int $id, RecoveryRequest $of, User $user): void
    {
        $set = BackupSet::query()->where('workload_id', $of->workload_id)->findOrFail($id);
        if ($set->id !== $of->set_id) {
            $of->update(['set_id' => $set->id]);
            TrailEntry::add("The point {$set->name} was chosen by a file that was found in it.", $of, $user);
        }
    }

    /** Takes a file or folder of the machine into the selection, or out of it: paths percent-encoded, as the page has them. */
    private function files(MachineChoiceRequest $request, RecoveryRequest $of, User $user): RedirectResponse
    {
        [$point, $found] = [...explode(':', $request->string('version')->value(), 2), ''];
        $said = MachineSaid::of($of);
        try {
            $take = array_filter([$request->string('take')->value(), $found], fn (string $path): bool => $path !== '');
            $taken = array_map(fn (string $path): string => rawurlencode(EntryPath::of(rawurldecode($path))), $take);
        } catch (UnsafePath $unsafe) {
            return back()->withErrors(['take' => $unsafe->getMessage()]);
        }
        $found === '' || $this->takePoint((int) $point, $of, $user);
        $paths = array_diff([...$said->paths, ...$taken], [$request->string('drop')->value()]);
        $said->with(paths: array_values(array_unique($paths)))->keepOn($of)->save();

        return redirect("/requests/{$of->id}?show=what&folder=".rawurlencode($request->string('folder_shown')->value()));
    }

    private function how(MachineChoiceRequest $request, RecoveryRequest $of): RedirectResponse
    {
        MachineSaid::of($of)
            ->with(
                format: $request->string('format')->value(),
                part: $request->boolean('part'),
                conflict: $request->string('conflict')->value() ?: 'beside',
            )
            ->keepOn($of)
            ->save();

        return redirect("/requests/{$of->id}?show=how")->with('told', 'The order line has it.');
    }

    private function way(MachineChoiceRequest $request, RecoveryRequest $of): RedirectResponse
    {
        MachineSaid::of($of)
            ->with(way: $request->string('way')->value(), part: $request->boolean('part'))
            ->keepOn($of)
            ->save();

        return redirect("/requests/{$of->id}?show=how")->with('told', 'The order line has it.');
    }

    /** How it is to stand at its hypervisor. */
    private function place(MachineChoiceRequest $request, RecoveryRequest $of, User $user): RedirectResponse
    {
        $joins = $request->filled('joins') ? Run::query()->findOrFail($request->integer('joins')) : null;
        abort_unless($joins === null || $user->sees($joins->workload->group), 404);
        MachineSaid::of($of)
            ->with(
                machine: $request->string('machine')->value(),
                storage: $request->string('storage')->value(),
                network: $request->string('network')->value(),
                memory: $request->filled('memory') ? $request->integer('memory') : null,
                cores: $request->filled('cores') ? $request->integer('cores') : null,
                cards: $request->string('cards')->value() ?: PlacementWish::CONNECTED,
                newMac: $request->boolean('new_mac'),
                setsAside: $request->boolean('set_aside'),
                stopsIt: $request->filled('stop'),
                shutsDown: $request->string('stop')->value() === 'shut-down',
                starts: $request->boolean('start'),
                annex: $request->boolean('annex'),
                background: $request->boolean('background'),
                joins: $joins?->id,
                limit: $request->filled('limit') ? $request->integer('limit') : null,
                follow: $request->filled('follow') ? $request->integer('follow') : null,
                until: $request->filled('until')
                    ? CarbonImmutable::parse($request->string('until')->value(), $user->zone)->getTimestamp()
                    : null,
            )
            ->keepOn($of)
            ->save();
        HypervisorHost::query()->where('name', MachineSaid::of($of)->on)->first()?->lookIfItAnswers();

        return redirect("/requests/{$of->id}?show=where")->with('told', 'The order line has it.');
    }

    private function atHypervisor(MachineChoiceRequest $request, RecoveryRequest $of, User $user): RedirectResponse
    {
        $host = HypervisorHost::query()->findOrFail($request->integer('hypervisor'));
        $refused = PersonRights::of($user)->refuses(Right::Write, $host);
        if ($refused !== null) {
            return back()->withErrors(['hypervisor' => $refused])->withInput();
        }
        $said = MachineSaid::of($of);
        $isOther = $said->on !== $host->name;
        $said->with(on: $host->name, storage: $isOther ? '' : $said->storage, network: $isOther ? '' : $said->network, paths: [], into: '')
            ->keepOn($of)
            ->save();
        $host->lookIfItAnswers();

        return redirect("/requests/{$of->id}?show=where")->with('told', 'The order line has it.');
    }

    private function intoMachine(MachineChoiceRequest $request, RecoveryRequest $of, User $user): RedirectResponse
    {
        [$id, $machine] = [...explode(':', $request->string('into')->value(), 2), ''];
        $host = HypervisorHost::query()->findOrFail((int) $id);
        $refused = PersonRights::of($user)->refuses(Right::Write, $host);
        try {
            $inside = EntryPath::of($request->string('inside')->value());
        } catch (UnsafePath $unsafe) {
            return back()->withErrors(['inside' => $unsafe->getMessage()])->withInput();
        }
        if ($refused !== null) {
            return back()->withErrors(['into' => $refused])->withInput();
        }
        MachineSaid::of($of)->with(on: $host->name, into: $machine, inside: rawurlencode($inside))->keepOn($of)->save();
        $host->lookIfItAnswers();

        return redirect("/requests/{$of->id}?show=where")->with('told', 'The order line has it.');
    }

    private function where(MachineChoiceRequest $request, RecoveryRequest $of, User $user): RedirectResponse
    {
        if (in_array($request->string('to')->value(), ['hypervisor', 'machine'], true)) {
            return $request->string('to')->value() === 'machine'
                ? $this->intoMachine($request, $of, $user)
                : $this->atHypervisor($request, $of, $user);
        }
        $host = $request->string('to')->value() === 'host' ? Host::query()->findOrFail($request->integer('host')) : null;
        $refused = $host === null ? null : PersonRights::of($user)->refuses(Right::Write, $host);
        if ($refused !== null) {
            return back()->withErrors(['host' => $refused])->withInput();
        }
        try {
            $folder = $host === null ? '' : EntryPath::of($request->string('folder')->value());
        } catch (UnsafePath $unsafe) {
            return back()->withErrors(['folder' => $unsafe->getMessage()])->withInput();
        }
        MachineSaid::of($of)->with(host: $host?->id, folder: $folder, on: '', into: '')->keepOn($of)->save();

        return redirect("/requests/{$of->id}?show=where")->with('told', 'The order line has it.');
    }
}
