<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Hypervisors;

use App\View\DrawnPicture;
use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Model;
use Kaiseki\Core\Catalog\Shown;
use Kaiseki\Core\Hypervisor\AgentFacts;
use Kaiseki\Core\Hypervisor\Hypervisor;
use Kaiseki\Core\Hypervisor\HypervisorFailure;

/**
 * A machine as somebody last looked at it: its screen, its serial line, its agent.
 *
 * @property int $id
 * @property int $hypervisor_id
 * @property string $machine
 * @property string $state waiting, done or failed
 * @property string|null $failure
 * @property string|null $screen PNG
 * @property string|null $serial
 * @property array<mixed>|null $agent
 * @property CarbonImmutable|null $looked_at
 */
final class MachineLook extends Model
{
    /** Bytes of the end of a serial line. */
    private const SERIAL = 32_768;

    public const WAITING = 'waiting';

    public $timestamps = false;

    protected $guarded = [];

    protected function casts(): array
    {
        return ['agent' => 'array', 'looked_at' => 'immutable_datetime'];
    }

    public static function at(HypervisorHost $host, string $machine): ?self
    {
        return self::query()->where('hypervisor_id', $host->id)->where('machine', $machine)->first();
    }

    /** Somebody wants to see it as it is now, or has it turned on or off. */
    public static function wanted(HypervisorHost $host, string $machine, ?Turn $turn = null): void
    {
        $of = ['hypervisor_id' => $host->id, 'machine' => $machine];
        LookAtMachine::dispatch(self::query()->updateOrCreate($of, ['state' => self::WAITING, 'failure' => null])->id, $turn);
    }

    public function isWaiting(): bool
    {
        return $this->state === self::WAITING;
    }

    /** @throws HypervisorFailure */
    public function take(Hypervisor $hypervisor): void
    {
        $isRunning = $hypervisor->machine($this->machine)?->isRunning() ?? throw HypervisorFailure::because('it is not there now');
        $this->fill([
            'state' => 'done',
            'screen' => $isRunning ? DrawnPicture::png($hypervisor->screen($this->machine)) : null,
            'serial' => self::shown(substr($hypervisor->serial($this->machine), -self::SERIAL)),
            'agent' => $isRunning ? self::agentOf($hypervisor, $this->machine)?->toArray() : null,
            'looked_at' => now(),
        ])->save();
    }

    /** What came over a serial line, without what a terminal would do, and with nothing in it that turns direction. */
    public static function shown(string $said): string
    {
        return implode("\n", array_map(self::shownLine(...), explode("\n", str_replace("\r", '', $said))));
    }

    private static function shownLine(string $line): string
    {
        return Shown::name((string) preg_replace('/\x1b(\[[0-?]*[ -\/]*[@-~]|[()][A-Z0-9]|[@-Z\\\\-_=>c])/', '', $line));
    }

    private static function agentOf(Hypervisor $hypervisor, string $machine): ?AgentFacts
    {
        try {
            return $hypervisor->agent($machine);
        } catch (HypervisorFailure) {
            return null;
        }
    }
}
