<?php

declare(strict_types=1);

namespace Outside\Jars;

use App\Kinds\Carrier;
use App\Kinds\ExportedParts;
use App\Kinds\Intake;
use App\Kinds\Judge;
use App\Kinds\Kind;
use App\Kinds\Need;
use App\Kinds\OrderSheet;
use App\Kinds\Source;
use App\Kinds\Terminal;
use App\Models\BackupSet;
use App\Models\RecoveryRequest;
use App\Models\User;
use App\Models\Workload;
use App\Sets\Points;
use App\View\RequestFrame;
use Closure;
use DateTimeImmutable;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;
use RuntimeException;

final class Jars implements Kind
{
    /** Set by a test that wants to see what happens when a kind fails. */
    public static bool $isBroken = false;

    public function name(): string
    {
        return 'jars';
    }

    public function noun(): string
    {
        return 'a shelf of jars';
    }

    public function unit(BackupSet $set): string
    {
        return 'jar';
    }

    public function needs(): array
    {
        return [new Need('jar-opener-that-nobody-has', 'jar-opener', 3, 'opening jars')];
    }

    public function provider(): string
    {
        return JarsProvider::class;
    }

    public function targets(): array
    {
        return [];
    }

    public function judge(Points $points): Judge
    {
        if (self::$isBroken) {
            throw new RuntimeException('The jar opener is gone.');
        }

        return new JarJudge($points);
    }

    public function source(Workload $workload): Source
    {
        return new JarSource;
    }

    public function intake(): Intake
    {
        return new JarIntake;
    }

    public function sheet(RecoveryRequest $request): OrderSheet
    {
        return new JarSheet($request);
    }

    public function forget(RecoveryRequest $request): void
    {
        $request->say('jars', 1, []);
    }

    public function carrier(?Closure $told = null): Carrier
    {
        return new JarCarrier;
    }

    public function terminal(): Terminal
    {
        return new JarTerminal;
    }

    public function page(RecoveryRequest $request, User $viewer, Request $http): View
    {
        return view('jars::show', [
            'sheet' => new JarSheet($request),
            'frame' => new RequestFrame($request, $viewer, $http),
            'request' => $request,
        ]);
    }

    public function view(string $part): string
    {
        return "jars::$part";
    }

    public function exported(): ExportedParts
    {
        return new ExportedParts;
    }

    public function newSources(): array
    {
        return [];
    }

    public function tookUp(Workload $workload, string $place): void
    {
    }

    public function makeDemo(DateTimeImmutable $today, int $days, Closure $kaiseki): void
    {
    }
}
