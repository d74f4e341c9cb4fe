<?php

declare(strict_types=1);

namespace App\Kinds\Items\Run;

use App\Kinds\Items\Order\ChosenItem;

/** Where items go: what is done there, and how it is checked. After a crash all of it is asked for again. */
interface ItemPlacing
{
    /**
     * What nobody else may write to meanwhile.
     *
     * @param  list<ChosenItem>  $chosen
     * @return array<string, string> name of a lock => what it locks, in words
     */
    public function locks(array $chosen): array;

    /**
     * @param  list<ChosenItem>  $chosen
     * @return string what was found there
     *
     * @throws \App\Kinds\Items\Order\CannotBringItems if nothing can be brought there as it is
     */
    public function look(array $chosen): string;

    /**
     * @param  list<ChosenItem>  $chosen
     * @return string what was done
     */
    public function bring(array $chosen): string;

    /**
     * Reads again what is there now.
     *
     * @param  list<ChosenItem>  $chosen
     */
    public function check(array $chosen): string;
}
