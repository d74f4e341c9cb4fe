<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Http;

use App\Jobs\CarryOutRun;
use App\Kinds\Machines\Metal\Enrolment;
use App\Kinds\Machines\Metal\KeptLayout;
use App\Kinds\Machines\Metal\MetalSources;
use App\Kinds\Machines\Metal\MetalStep;
use App\Kinds\Machines\Metal\OrderedRun;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Page\MetalView;
use App\Models\RecoveryRequest;
use App\Models\TrailEntry;
use App\Models\User;
use Illuminate\Contracts\View\View;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Kaiseki\Core\Metal\LayoutRecord;

/** The page of a machine that a recovery medium was started on: how the disks are laid out, and the order. */
final class EnrolmentController
{
    /** Of the sizes that are typed: mebibytes. */
    private const UNIT = 1 << 20;

    private const LARGEST = 1 << 38;

    public function open(Request $request, RecoveryRequest $recoveryRequest): RedirectResponse
    {
        $workload = $recoveryRequest->workload;
        abort_unless($workload !== null && MetalSources::isMachine($workload), 404);
        [$one, $code] = Enrolment::open($workload, $recoveryRequest, self::user($request));
        $view = new MetalView($one, self::user($request));
        try {
            $view->point === null || KeptLayout::read($view->points, $view->point, $view->copies());
        } catch (CannotBring $cannot) {
            return redirect($one->page())->with('code', $code)->withErrors(['layout' => $cannot->getMessage()]);
        }

        return redirect($one->page())->with('code', $code);
    }

    public function show(Request $request, Enrolment $enrolment): View
    {
        $user = self::user($request);

        return view('kinds.machine.metal', ['view' => new MetalView($enrolment, $user), 'zone' => $user->zone]);
    }

    public function decide(Request $request, Enrolment $enrolment): RedirectResponse
    {
        $user = self::user($request);
        $do = $request->string('do')->value();
        if ($do === 'end') {
            $enrolment->run !== null && ! $enrolment->run->isOver() && abort(409);
            $enrolment->endBy($user);

            return redirect($enrolment->page())->with('told', 'It is over; its code and its token are worth nothing any more.');
        }
        if ($do === 'switch') {
            return $this->switch($enrolment, $user);
        }
        $view = new MetalView($enrolment, $user);
        try {
            $record = $view->point === null ? null : KeptLayout::read($view->points, $view->point, $view->copies());
        } catch (CannotBring $cannot) {
            return redirect($enrolment->page())->withErrors(['layout' => $cannot->getMessage()]);
        }
        $record !== null && $do !== 'read' && $enrolment->update(['wish' => self::wish($request, $record)]);

        return match ($do) {
            'layout', 'read' => redirect($enrolment->page()),
            'rehearse', 'order' => $this->order($request, $enrolment->refresh(), $do === 'rehearse'),
            default => abort(404),
        };
    }

    private function switch(Enrolment $enrolment, User $user): RedirectResponse
    {
        try {
            $run = (new MetalStep($enrolment))->last($user);
        } catch (CannotBring $cannot) {
            return redirect($enrolment->page())->withErrors(['order' => $cannot->getMessage()]);
        }
        CarryOutRun::dispatch($run->id);

        return redirect("/runs/{$run->id}");
    }

    private function order(Request $request, Enrolment $enrolment, bool $rehearses): RedirectResponse
    {
        $user = self::user($request);
        $said = $request->string('follow')->trim()->value();
        if ($said !== '' && preg_match('/^[1-9][0-9]{0,4}$/D', $said) !== 1) {
            return redirect($enrolment->page())->withErrors(['order' => 'It is kept in step every so many minutes: a number from 1 on.']);
        }
        $plan = (new MetalView($enrolment, $user, $rehearses, $said === '' || $rehearses ? null : (int) $said))->plan;
        if ($plan === null) {
            return redirect($enrolment->page())->withErrors(['order' => 'There is nothing to be ordered yet.']);
        }
        $typed = fn (string $disk): string => $request->string("confirm_$disk")->value();
        $blockers = [...$plan->blockers(), ...$rehearses ? [] : $plan->unconfirmed($typed)];
        if ($blockers !== []) {
            return redirect($enrolment->page())->withErrors(['order' => implode(' ', $blockers)])->withInput();
        }
        $order = $plan->ordered($request->boolean('renew_id'));
        $run = OrderedRun::begin(
            $enrolment->workload,
            $plan->point,
            $order->toArray(),
            $plan->layout->leftAlone === [],
            $enrolment->request,
            $user,
        );
        TrailEntry::add("Run {$run->id} was ordered: {$order->sentence}", $enrolment->request, $user, $run);
        CarryOutRun::dispatch($run->id);

        return redirect("/runs/{$run->id}");
    }

    /**
     * What was said of each disk, and of the sizes of its partitions; by their places in the record, since their names are anything.
     *
     * @return array<string, mixed>
     */
    private static function wish(Request $request, LayoutRecord $record): array
    {
        $wish = ['onto' => [], 'without' => [], 'sizes' => []];
        foreach ($record->disks as $i => $disk) {
            $onto = $request->string("onto_$i")->value();
            match (true) {
                $onto === '' => null,
                $onto === '-' => $wish['without'][] = $disk->name,
                default => $wish['onto'][$disk->name] = mb_strcut($onto, 0, 40),
            };
            foreach ($disk->partitions as $one) {
                $wish['sizes'] += self::size($request, "size_{$i}_{$one->number}", $disk->key($one));
            }
        }
        foreach ($record->groups as $g => $group) {
            foreach ($group->volumes as $v => $volume) {
                $wish['sizes'] += self::size($request, "volume_{$g}_$v", $group->key($volume));
            }
        }

        return $wish;
    }

    /** @return array<string, int> what was said of the size of a place, in bytes; none if nothing was */
    private static function size(Request $request, string $field, string $key): array
    {
        $mebibytes = $request->string($field)->value();
        $isSaid = preg_match('/^[1-9][0-9]{0,11}$/D', $mebibytes) === 1 && (int) $mebibytes < self::LARGEST;

        return $isSaid ? [$key => (int) $mebibytes * self::UNIT] : [];
    }

    private static function user(Request $request): User
    {
        $user = $request->user();
        assert($user instanceof User);

        return $user;
    }
}
