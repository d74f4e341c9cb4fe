<?php

declare(strict_types=1);

namespace App\Kinds;

use App\Models\BackupSet;
use App\Models\RecoveryRequest;
use App\Models\Run;
use App\Models\User;
use App\Models\Workload;
use App\Sets\Points;
use App\Sets\SetOutline;
use Closure;
use DateTimeImmutable;
use Illuminate\Contracts\View\View;
use Illuminate\Http\Request;
use Kaiseki\Core\Chain\Level;
use Symfony\Component\Console\Command\Command;
use Symfony\Component\Console\Input\InputInterface;

/**
 * Stands for a kind that is not installed here: its workloads are listed, their sets are kept, copied and checked as files; whatever
 * needs to know what is in them is refused, and says what is missing.
 */
final readonly class NotInstalled implements Carrier, Intake, Judge, Kind, Source, Terminal
{
    public function __construct(private string $name)
    {
    }

    public function name(): string
    {
        return $this->name;
    }

    public function noun(): string
    {
        return "a workload of the kind {$this->name}";
    }

    public function unit(BackupSet $set): string
    {
        return 'entry';
    }

    public function needs(): array
    {
        return [];
    }

    public function provider(): ?string
    {
        return null;
    }

    public function targets(): array
    {
        return [];
    }

    public function judge(Points $points): Judge
    {
        return $this;
    }

    public function source(Workload $workload): Source
    {
        return $this;
    }

    public function intake(): Intake
    {
        return $this;
    }

    public function sheet(RecoveryRequest $request): OrderSheet
    {
        throw KindIsMissing::named($this->name);
    }

    public function forget(RecoveryRequest $request): void
    {
    }

    public function carrier(?Closure $told = null): Carrier
    {
        return $this;
    }

    public function terminal(): Terminal
    {
        return $this;
    }

    public function page(RecoveryRequest $request, User $viewer, Request $http): View
    {
        throw KindIsMissing::named($this->name);
    }

    public function view(string $part): string
    {
        return "missing.$part";
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

    public function needsConsistency(): bool
    {
        return false;
    }

    public function usability(SetOutline $set): Usability
    {
        return Usability::no(KindIsMissing::words($this->name));
    }

    public function hurt(): int
    {
        return 0;
    }

    public function bridged(SetOutline $set): ?SetOutline
    {
        return null;
    }

    public function blockages(?array $wanted): Closure
    {
        return fn (SetOutline $set): string => KindIsMissing::words($this->name);
    }

    public function doubts(?array $wanted): Closure
    {
        return fn (SetOutline $set): string => 'it is in doubt: see its signs';
    }

    public function restoreSeconds(SetOutline $set): ?float
    {
        return null;
    }

    public function gives(BackupSet $set): array
    {
        return [new Given('anything', false, KindIsMissing::words($this->name))];
    }

    public function writeNightSheet(SetOutline $point, array $archives, string $folder): ?string
    {
        return null;
    }

    public function levels(): array
    {
        return [];
    }

    public function makes(Level $level): bool
    {
        return false;
    }

    public function usualTimes(): array
    {
        return [];
    }

    public function isKnown(): bool
    {
        return false;
    }

    public function isGone(): bool
    {
        return false;
    }

    public function place(): ?SourcePlace
    {
        return null;
    }

    public function levelOfPresent(): string
    {
        return 'full';
    }

    public function make(MakingOrder $order): BackupSet
    {
        throw KindIsMissing::named($this->name);
    }

    public function adopt(AdoptOrder $order): Adopted
    {
        throw KindIsMissing::named($this->name);
    }

    public function rebuild(RebuildOrder $order): Rebuilt
    {
        $rebuilt = new Rebuilt;
        $rebuilt->problems[] = new RefusedFile($order->workload, ucfirst(KindIsMissing::words($this->name)).'.');

        return $rebuilt;
    }

    public function carryOut(Run $run): void
    {
        throw KindIsMissing::named($this->name);
    }

    public function canBePutBack(Run $run): bool
    {
        return false;
    }

    public function losesLaterChanges(): bool
    {
        return true;
    }

    public function putBack(Run $run, bool $alsoChanged): PutBackTold
    {
        throw KindIsMissing::named($this->name);
    }

    public function clearAside(Run $run, ?User $by): void
    {
        throw KindIsMissing::named($this->name);
    }

    public function clearStaged(Run $run): void
    {
        throw KindIsMissing::named($this->name);
    }

    public function touches(Run $run): Touched
    {
        return Touched::nothing();
    }

    public function sentence(Run $run, string $zone): string
    {
        return (string) ($run->plan['sentence'] ?? '');
    }

    public function came(Run $run): string
    {
        return 'something';
    }

    public function howFar(Run $run): string
    {
        return '';
    }

    public function besideProof(Run $run): array
    {
        return [];
    }

    public function evidence(array $evidence): array
    {
        return $evidence;
    }

    public function commands(): array
    {
        return [];
    }

    public function takes(): array
    {
        return [];
    }

    public function describe(Command $command): void
    {
    }

    public function restore(Workload $workload, InputInterface $input, Talk $talk): Told
    {
        throw KindIsMissing::named($this->name);
    }

    public function handSheet(Workload $workload, InputInterface $input): array
    {
        throw KindIsMissing::named($this->name);
    }

    public function sourceSaid(InputInterface $input, string $name, ?Workload $known): ?Workload
    {
        return null;
    }

    public function makeDemo(DateTimeImmutable $today, int $days, Closure $kaiseki): void
    {
    }
}
