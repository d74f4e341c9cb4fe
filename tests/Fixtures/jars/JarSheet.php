<?php

declare(strict_types=1);

namespace Outside\Jars;

use App\Kinds\OrderSheet;
use App\Kinds\Touched;
use App\Models\BackupSet;
use App\Models\RecoveryRequest;
use App\Models\User;
use App\Sets\CopyChoices;
use App\Sets\Points;
use Kaiseki\Core\Chain\Demands;
use Kaiseki\Core\Instant;

final readonly class JarSheet implements OrderSheet
{
    public ?BackupSet $point;

    public string $to;

    public function __construct(private RecoveryRequest $request)
    {
        $points = new Points($request->workload);
        $this->point = $points->modelOf($points->find(Instant::of($request->wanted_at), Demands::parse($request->demands))->set);
        $this->to = $request->saidOf('jars')['to'] ?? '';
    }

    public function request(): RecoveryRequest
    {
        return $this->request;
    }

    public function blockers(): array
    {
        return array_values(
            array_filter([
                $this->point === null ? 'There is no jar of that time.' : null,
                $this->to === '' ? 'Say where the jar is to stand.' : null,
            ]),
        );
    }

    public function lookAgain(): void
    {
    }

    public function sentence(string $zone): string
    {
        return "Open {$this->point?->name} into {$this->to}.";
    }

    public function fingerprint(): string
    {
        return md5("{$this->point?->id} {$this->to}");
    }

    public function touches(): Touched
    {
        return Touched::nothing();
    }

    public function needsApproval(): bool
    {
        return false;
    }

    public function marked(): array
    {
        return [];
    }

    public function refusedTo(User $user): ?string
    {
        return null;
    }

    public function previewCounts(): array
    {
        return [];
    }

    public function sets(): array
    {
        return $this->point === null ? [] : [$this->point->id];
    }

    public function copies(): ?CopyChoices
    {
        return null;
    }

    public function handSheet(): ?iterable
    {
        return ["cp {$this->point?->name}.jar {$this->to}\n"];
    }

    public function runAttributes(bool $setFirst): array
    {
        return [
            'set_id' => $this->point?->id,
            'plan' => ['kind' => 'jars', 'to' => $this->to, 'sentence' => $this->sentence('UTC')],
            'is_whole' => true,
        ];
    }
}
