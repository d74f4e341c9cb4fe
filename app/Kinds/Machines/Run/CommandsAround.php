<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Run;

use App\Hosts\HostCommand;
use App\Instance;
use App\Kinds\Machines\Order\CannotBring;
use App\Models\Run;
use Kaiseki\Core\Proof\CheckLine;

/** The commands before and after a machine is brought back, of those that may be run here; what each said is kept with the run. */
final class CommandsAround
{
    use KeepsOutcome;

    /** Seconds after which one is ended. */
    private const LIMIT = 600;

    public function __construct(private readonly Run $run)
    {
    }

    /**
     * Of a run that is carried out again the one before is not run twice.
     *
     * @param  list<string>  $command
     *
     * @throws CannotBring if it does not end well: nothing was done yet
     */
    public function before(array $command): string
    {
        foreach ($this->kept() as $ran) {
            if ($ran['when'] === 'before' && $ran['exit'] === 0) {
                return 'was run before the interruption';
            }
        }
        $ran = $this->run('before', $command);

        return $ran->isRight() ? self::words($ran) : throw CannotBring::because((string) $ran->remark());
    }

    /** @param  list<string>  $command */
    public function after(array $command): string
    {
        return self::words($this->run('after', $command));
    }

    /** @param  list<string>  $command */
    private function run(string $when, array $command): HostCommand
    {
        $ran = HostCommand::run($when, $command, Instance::folder('tmp'), self::LIMIT);
        $this->remember(commands: [...$this->kept(), $ran->toArray()]);

        return $ran;
    }

    /** @return list<array<string, mixed>> as HostCommand has them */
    private function kept(): array
    {
        return array_values((array) $this->recalled('commands'));
    }

    private static function words(HostCommand $ran): string
    {
        return $ran->remark() ?? sprintf('ended well after %.1f s', $ran->seconds);
    }

    /** @return list<CheckLine> of the last of each */
    public function checks(): array
    {
        $checks = [];
        foreach ($this->kept() as $ran) {
            $checks[$ran['when']] = CheckLine::of(
                "the command {$ran['when']} it: ".implode(' ', $ran['command']),
                $ran['exit'] === 0,
                $ran['exit'] === null ? 'did not end by itself' : "ended with {$ran['exit']}",
            );
        }

        return array_values($checks);
    }
}
