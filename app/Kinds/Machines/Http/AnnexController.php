<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Http;

use App\Kinds\Machines\Annex\Annex;
use App\Kinds\Machines\Annex\AnnexChange;
use App\Kinds\Machines\Annex\DoInside;
use App\Kinds\Machines\Annex\Release;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Scan\AnnexFinding;
use App\Kinds\Machines\Scan\AnnexScan;
use App\Kinds\Machines\Scan\ScanInAnnex;
use App\Kinds\Machines\Standing\Settle;
use App\Kinds\Machines\Standing\Standing;
use App\Models\Right;
use App\Models\Run;
use App\Models\User;
use App\Rights\PersonRights;
use App\Sets\ContentRead;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\BinaryFileResponse;

/**
 * What is done with a machine in an annex: something in it, a scan and what is said of its findings, the record taken
 * away, the machine released.
 */
final class AnnexController
{
    public function inside(InsideRequest $request, Run $run): RedirectResponse
    {
        $standing = self::standing($run);
        try {
            self::refuse($request, Right::Write, $standing);
            $user = self::user($request);
            $change = AnnexChange::order($standing, $request->sort(), $request->what(), $request->string('why')->value(), $user);
        } catch (CannotBring $cannot) {
            return redirect("{$run->page()}#annex")->withErrors(['inside' => $cannot->getMessage()])->withInput();
        }
        DoInside::dispatch($change->id);

        return redirect("{$run->page()}#annex");
    }

    public function release(Request $request, Run $run): RedirectResponse
    {
        $standing = self::standing($run);
        try {
            self::refuse($request, Right::Write, $standing);
            $release = (new Release($standing))->order(
                $request->boolean('set_aside'),
                $request->boolean('unscanned'),
                self::user($request),
            );
        } catch (CannotBring $cannot) {
            return redirect("{$run->page()}#annex")->withErrors(['release' => $cannot->getMessage()]);
        }
        Settle::begin($release);

        return redirect($release->page())->with('told', 'It is being released.');
    }

    public function scan(Request $request, Run $run): RedirectResponse
    {
        $standing = self::standing($run);
        try {
            self::refuse($request, Right::Read, $standing);
            ScanInAnnex::dispatch(AnnexScan::order($standing, AnnexScan::BUDGET, self::user($request))->id);
        } catch (CannotBring $cannot) {
            return redirect("{$run->page()}#annex")->withErrors(['scan' => $cannot->getMessage()]);
        }

        return redirect("{$run->page()}#annex");
    }

    public function decide(VerdictRequest $request, Run $run, string $finding): RedirectResponse
    {
        $standing = self::standing($run);
        $finding = AnnexFinding::query()->where('annex_id', Annex::ofRun($run)?->id)->findOrFail((int) $finding);
        try {
            self::refuse($request, Right::Write, $standing);
            $finding->decide($request->string('verdict')->value(), $request->string('why')->value(), self::user($request));
        } catch (CannotBring $cannot) {
            return redirect("{$run->page()}#annex")->withErrors(['verdict' => $cannot->getMessage()]);
        }

        return redirect("{$run->page()}#annex");
    }

    public function record(Request $request, Run $run): BinaryFileResponse
    {
        $annex = Annex::ofRun($run) ?? abort(404);
        $refused = PersonRights::of(self::user($request))->refuses(Right::Read, $annex->hypervisor);
        abort_if($refused !== null, 403, (string) $refused);
        abort_unless(is_file($annex->file()), 404);
        ContentRead::told("Took the record of the annex of run {$run->id}.", $run->workload, self::user($request));

        return response()->download($annex->file(), "annex-run-{$run->id}.pcapng", ['Content-Type' => 'application/octet-stream']);
    }

    /** @throws CannotBring */
    private static function refuse(Request $request, Right $right, Standing $standing): void
    {
        $refused = PersonRights::of(self::user($request))->refuses($right, $standing->hypervisor);
        $refused === null || throw CannotBring::because($refused);
    }

    private static function standing(Run $run): Standing
    {
        return Standing::ofRun($run) ?? abort(404);
    }

    private static function user(Request $request): User
    {
        $user = $request->user();
        assert($user instanceof User);

        return $user;
    }
}
