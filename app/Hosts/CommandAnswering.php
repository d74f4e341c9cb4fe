<?php

declare(strict_types=1);

namespace App\Hosts;

use Kaiseki\Core\Host\HostIsSilent;
use Kaiseki\Core\Host\Wire;
use Symfony\Component\Process\Exception\ExceptionInterface;
use Symfony\Component\Process\Exception\ProcessTimedOutException;
use Symfony\Component\Process\Process;

/** One wire of the process that runs commands of a host: those that root allowed, word by word, as the account that root named. */
final readonly class CommandAnswering
{
    /** @param  list<string>  $allowed  JSON lists of arguments, as CommandList writes them */
    public function __construct(private int $peer, private array $allowed)
    {
    }

    /** A command, the folder it is run in, seconds, and what it reads -> how it ended (nothing if not by itself), and what it said. */
    public function run(Wire $wire): void
    {
        [$asked, $from] = $wire->receiveFromWhom();
        [$json, $folder, $limit, $input] = [...$asked, '', '', '', ''];
        if (($from !== $this->peer && $from !== 0) || ! in_array($json, $this->allowed, true)) {
            throw HostIsSilent::nonsense();
        }
        $wire->send(
            self::carryOut(
                (array) json_decode($json, true), is_dir($folder) && is_executable($folder) ? $folder : '/', (int) $limit, $input,
            ),
        );
    }

    /**
     * @param  array<string>  $command
     * @param  string  $input  what it reads; '' for nothing
     * @return array{string, string}
     */
    public static function carryOut(array $command, string $folder, int $limit, string $input = ''): array
    {
        $process = new Process(array_values($command), $folder, null, $input === '' ? null : $input, $limit);
        $exit = '';
        try {
            $exit = (string) $process->run();
            $output = $process->getOutput().$process->getErrorOutput();
        } catch (ProcessTimedOutException) {
            $output = $process->getOutput().$process->getErrorOutput()."\nIt was ended after $limit s.";
        } catch (ExceptionInterface $failure) {
            $output = $failure->getMessage();
        }

        return [$exit, mb_strcut(mb_scrub(trim($output)), 0, HostCommand::KEPT_OUTPUT)];
    }
}
