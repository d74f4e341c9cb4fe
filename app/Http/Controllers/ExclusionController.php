<?php

declare(strict_types=1);

namespace App\Http\Controllers;

use App\Http\Requests\ExclusionRequest;
use App\Models\User;
use App\Models\Workload;
use App\Orders\CannotOrder;
use App\Orders\Deeds;
use App\Sets\LeftOut;
use Illuminate\Http\RedirectResponse;
use InvalidArgumentException;
use Kaiseki\Core\Protect\Exclusion;

/** Settles what the sets of a workload leave out. */
final class ExclusionController
{
    public function __invoke(ExclusionRequest $request, Workload $workload): RedirectResponse
    {
        $user = $request->user();
        assert($user instanceof User);
        $pattern = $request->string('pattern')->value();
        try {
            $told = $request->input('do') === 'add'
                ? $this->add($workload, Exclusion::of($pattern, $request->string('because')->value()), $user)
                : $this->end($workload, $pattern, $user);
        } catch (InvalidArgumentException|CannotOrder $wrong) {
            return back()->withInput()->withErrors(['pattern' => $wrong->getMessage()]);
        }

        return redirect("/workloads/{$workload->id}/care")->with('told', $told);
    }

    /** @throws InvalidArgumentException|CannotOrder */
    private function add(Workload $workload, Exclusion $one, User $user): string
    {
        LeftOut::refuseUnfit($workload);

        return Deeds::LeaveOut->doOrAsk(
            $workload,
            $one->toArray(),
            "Leave out of the sets of {$workload->name} from now on: {$one->words()}.",
            $user,
        );
    }

    /** What is not left out any more takes nothing away: nobody need be asked. */
    private function end(Workload $workload, string $pattern, User $user): string
    {
        LeftOut::end($workload, $pattern, $user);

        return 'It is in the sets that are made from now on.';
    }
}
