<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Kinds\Kinds;
use InvalidArgumentException;
use Symfony\Component\Console\Input\ArgvInput;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class HandSheet extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('hand-sheet')
            ->setDescription('Writes the commands with which a person does the same restore with ordinary tools')
            ->addArgument('name', InputArgument::REQUIRED, 'the workload')
            ->addOption('out', null, InputOption::VALUE_REQUIRED, 'a file to write it to; without it, it is printed');
        $this->addOptionsOfKinds();
    }

    protected function kinds(ArgvInput $input): array
    {
        return $this->kindOfNamed($input);
    }

    protected function carryOut(InputInterface $input): int
    {
        $workload = $this->workload($input);
        [$point, $script] = Kinds::terminalOf($workload, $input)->handSheet($workload, $input);

        return $this->write($input, $point, implode('', [...$script]));
    }

    private function write(InputInterface $input, string $point, string $script): int
    {
        $out = $input->getOption('out');
        if ($out !== null) {
            if (@file_put_contents((string) $out, $script) !== strlen($script)) {
                throw new InvalidArgumentException("\"$out\" cannot be written.");
            }
            $this->answer(
                ['point' => $point, 'sheet' => mb_scrub((string) $out)],
                fn (): array => ["$out is written; run it with: sh $out EMPTY-FOLDER"],
            );

            return self::DONE;
        }
        if ($this->json) {
            // Names may be any bytes, and JSON has none but UTF-8.
            $this->answer(['point' => $point, 'script_base64' => base64_encode($script)], fn (): array => []);
        } else {
            $this->raw($script);
        }

        return self::DONE;
    }
}
