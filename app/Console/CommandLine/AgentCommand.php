<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Agents\Agent;
use App\Agents\AgentScript;
use App\Agents\AgentWorkload;
use App\Line\LineAddress;
use InvalidArgumentException;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class AgentCommand extends KaisekiCommand
{
    private const LONGEST = 10_080;

    protected function configure(): void
    {
        parent::configure();
        $this->setName('agent')
            ->setDescription('Machines that send their sets themselves: the file that one installs, those that are known, and ending one')
            ->addArgument('what', InputArgument::REQUIRED, 'script, list, or revoke')
            ->addArgument('of', InputArgument::OPTIONAL, 'script: the workload, made if there is none; revoke: the number of the agent')
            ->addOption('desk', null, InputOption::VALUE_REQUIRED, 'script: HOST:PORT of this desk\'s line, as that machine reaches it')
            ->addOption('group', null, InputOption::VALUE_REQUIRED, 'script: the group of a workload that is made')
            ->addOption('site', null, InputOption::VALUE_REQUIRED, 'script: where a workload is that is made', 'boathouse')
            ->addOption('minutes', null, InputOption::VALUE_REQUIRED, 'script: how long its code is good', (string) Agent::MINUTES)
            ->addOption('out', null, InputOption::VALUE_REQUIRED, 'script: the file that it is written to; else it comes out here');
    }

    protected function carryOut(InputInterface $input): int
    {
        match ($input->getArgument('what')) {
            'script' => $this->script($input),
            'list' => $this->list(),
            'revoke' => $this->revoke((string) $input->getArgument('of')),
            default => throw new InvalidArgumentException('It is "agent script NAME", "agent list" or "agent revoke NUMBER".'),
        };

        return self::DONE;
    }

    private function script(InputInterface $input): void
    {
        $minutes = (string) $input->getOption('minutes');
        ctype_digit($minutes) && (int) $minutes >= 1 && (int) $minutes <= self::LONGEST
            || throw new InvalidArgumentException('--minutes is a number from 1 to '.self::LONGEST.'.');
        $name = (string) ($input->getArgument('of') ?? throw new InvalidArgumentException('Say which machine it is: agent script NAME.'));
        $desk = AgentScript::checked((string) ($input->getOption('desk') ?? LineAddress::here()));
        $group = $input->getOption('group');
        $workload = AgentWorkload::named(
            $name,
            $group === null ? null : (string) $group,
            (string) $input->getOption('site'),
        );
        [$agent, $code] = Agent::open($workload, null, (int) $minutes);
        $script = AgentScript::of($workload->name, $desk, $code);
        $out = $input->getOption('out');
        if ($out !== null) {
            self::write((string) $out, $script);
            $script = '';
        } elseif (! $this->json) {
            $this->raw($script);

            return;
        }
        $this->answer(
            [
                'agent' => $agent->id,
                'workload' => $workload->name,
                'desk' => $desk,
                'code' => $code,
                'good_until' => $agent->expires_at->toIso8601String(),
            ] + ($out === null ? ['script' => $script] : ['file' => (string) $out]),
            fn (): array => ["$out: bring it to the machine, and install it there as root: sh ".basename((string) $out).' install'],
        );
    }

    private static function write(string $path, string $script): void
    {
        $file = @fopen($path, 'xb') ?: throw new InvalidArgumentException("$path cannot be written, or is there already.");
        chmod($path, 0600);
        fwrite($file, $script);
        fclose($file);
    }

    private function list(): void
    {
        $agents = Agent::query()->with('workload')->orderBy('id')->get()->map(fn (Agent $one): array => [
            'agent' => $one->id,
            'workload' => $one->workload->name,
            'state' => $one->state(),
            'host' => $one->host,
            'system' => $one->system,
            'address' => $one->address,
            'words' => $one->phrase,
            'seen_at' => $one->seen_at?->toIso8601String(),
        ])->all();
        $this->answer(['agents' => $agents], fn (): array => $agents === []
            ? ['No machine has an agent yet: kaiseki agent script NAME']
            : array_map(fn (array $one): string => implode('  ', array_filter([
                $one['agent'], $one['workload'], $one['state'], $one['host'], $one['address'], $one['words'],
            ])), $agents));
    }

    private function revoke(string $number): void
    {
        $agent = ctype_digit($number) ? Agent::query()->find((int) $number) : null;
        $agent !== null || throw new InvalidArgumentException("No agent has the number \"$number\"; \"agent list\" lists them.");
        $agent->revoke(null);
        $this->answer(
            ['agent' => $agent->id, 'state' => $agent->state()],
            fn (): array => ["Agent {$agent->id} of {$agent->workload->name} {$agent->state()}. Remove it from that machine."],
        );
    }
}
