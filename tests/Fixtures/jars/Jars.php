<?php

declare(strict_types=1);

namespace Outside\Jars;

use App\Kinds\BringsOthers;
use App\Kinds\Carrier;
use App\Kinds\ExportedParts;
use App\Kinds\Given;
use App\Kinds\Intake;
use App\Kinds\Judge;
use App\Kinds\Need;
use App\Kinds\OrderSheet;
use App\Kinds\Source;
use App\Kinds\Terminal;
use App\Models\BackupSet;
use App\Models\RecoveryRequest;
use App\Models\User;
use App\Models\Workload;
use App\Sets\Points;
use App\Sets\SetOutline;
use App\View\RequestFrame;
use Closure;
use DateTimeImmutable;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;
use RuntimeException;
use Symfony\Component\Console\Command\Command;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class Jars implements BringsOthers
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

    /** Jam is made of whatever is called an orchard, of any kind. */
    public function brings(Workload $workload): bool
    {
        return $workload->name === 'orchard';
    }

    public function given(BackupSet $set): Given
    {
        return new Given('jam', true, "of all fruits of {$set->name}");
    }

    public function writeNightSheet(Points $points, SetOutline $point, array $archives, string $folder): string
    {
        file_put_contents("$folder/jam.txt", implode("\n", $archives));

        return "jam.txt: how jam is made of {$point->name}.";
    }

    public function describeBringing(Command $command): void
    {
        $command->getName() !== 'restore' || $command->addOption('jam', null, InputOption::VALUE_REQUIRED, 'the pot that jam is made into');
    }

    public function isMeant(InputInterface $input): bool
    {
        return $input->hasOption('jam') && $input->getOption('jam') !== null;
    }

    public function offer(RecoveryRequest $request): View
    {
        return view('jars::offer', ['request' => $request]);
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
