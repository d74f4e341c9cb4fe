@use('App\Words')
@php($plan = $view->plan)
@php($wish = $one->layoutWish())
@php($drawing = $view->drawing())
<section aria-labelledby="layout">
    <h2 id="layout">From <span class="mono">{{ $view->point->name }}</span> onto its disks</h2>
    @include('kinds.machine.layout-drawing')
    @foreach ($plan->layout->misfits as $misfit)
        <p class="attention mb-1">{{ $misfit }}</p>
    @endforeach
    @foreach ($plan->cautions() as $caution)
        <p class="assumed mb-1">{{ $caution }}</p>
    @endforeach
    <form method="post" action="{{ $one->page() }}">@csrf
        <table class="list mb-3">
            <thead>
                <tr>
                    <th>Disk, partition</th>
                    <th class="num">Was</th>
                    <th class="num">In use</th>
                    <th>Onto, and with how much</th>
                    <th>How</th>
                </tr>
            </thead>
            <tbody>
                @foreach ($view->record->disks as $i => $disk)
                    @php($onto = $view->planned($disk))
                    <tr>
                        <td class="mono fw-medium">{{ $disk->name }}</td>
                        <td class="num"><x-size :bytes="$disk->bytes" /></td>
                        <td></td>
                        <td><label class="visually-hidden" for="onto_{{ $i }}">{{ $disk->name }} onto</label><select
                                class="form-select form-select-sm w-auto" id="onto_{{ $i }}" name="onto_{{ $i }}">
                                <option value="">{{ $onto === null ? 'as proposed' : "as proposed: {$onto->onto->name}" }}</option>
                                @foreach ($view->machine->open() as $target)
                                    <option value="{{ $target->name }}" @selected(($wish->onto[$disk->name] ?? '') === $target->name)>
                                        {{ $target->name }}, {{ Words::size($target->bytes) }}</option>
                                @endforeach
                                <option value="-" @selected(in_array($disk->name, $wish->without, true))>not brought</option>
                            </select></td>
                        <td>{{ $disk->table === '' ? 'no table' : "table {$disk->table}" }}{{ $disk->startsCode ? ', a loader' : '' }}
                        </td>
                    </tr>
                    @foreach ($disk->partitions as $p => $part)
                        @php($is = $onto?->partitions[$p] ?? null)
                        <tr>
                            <td class="mono ps-4">{{ $part->number === 0 ? 'all of it' : $part->number }} {{ $part->name }}</td>
                            <td class="num"><x-size :bytes="$part->bytes" /></td>
                            <td class="num">@if ($part->content->kind->isFilled())<x-size :bytes="$part->content->used" />@endif</td>
                            <td>
                                @if ($is === null)
                                    <span class="muted">not brought</span>
                                @elseif ($part->content->kind->mayResize() && $part->number > 0)
                                    <label class="visually-hidden" for="size_{{ $i }}_{{ $part->number }}">MiB of {{ $disk->name }}
                                        {{ $part->number }}</label><input class="form-control form-control-sm d-inline-block w-auto mono"
                                        id="size_{{ $i }}_{{ $part->number }}" name="size_{{ $i }}_{{ $part->number }}" size="8"
                                        inputmode="numeric" placeholder="{{ intdiv($is->bytes, 1 << 20) }}"
                                        value="{{ $view->sizeSaid($disk->key($part)) }}">
                                    MiB, at least {{ Words::size($is->needs) }}
                                @else
                                    <x-size :bytes="$is->bytes" />
                                @endif
                            </td>
                            <td>{{ $part->content->type }}{{ $part->content->type === '' ? '' : ', ' }}{{ $part->content->kind->words() }}
                            </td>
                        </tr>
                    @endforeach
                @endforeach
                @foreach ($view->record->groups as $g => $group)
                    @php($grouped = $view->plannedGroup($group))
                    <tr>
                        <td class="mono fw-medium">{{ $group->name }}</td>
                        <td></td>
                        <td></td>
                        <td>@if ($grouped === null)<span class="muted">not brought</span>@else
                            <x-size :bytes="$grouped->bytes()" /> for volumes @endif</td>
                        <td>a volume group on {{ implode(', ', $group->parts) }}</td>
                    </tr>
                    @foreach ($group->volumes as $v => $volume)
                        @php($is = $grouped?->volumes[$v] ?? null)
                        <tr>
                            <td class="mono ps-4">{{ $volume->name }}</td>
                            <td class="num"><x-size :bytes="$volume->bytes" /></td>
                            <td class="num">@if ($volume->content->kind->isFilled())<x-size :bytes="$volume->content->used" />@endif</td>
                            <td>
                                @if ($is === null)
                                    <span class="muted">not brought</span>
                                @elseif ($volume->content->kind->isFilled())
                                    <label class="visually-hidden" for="volume_{{ $g }}_{{ $v }}">MiB of {{ $group->key($volume) }}</label
                                    ><input class="form-control form-control-sm d-inline-block w-auto mono" id="volume_{{ $g }}_{{ $v }}"
                                        name="volume_{{ $g }}_{{ $v }}" size="8" inputmode="numeric"
                                        placeholder="{{ intdiv($is->bytes, 1 << 20) }}"
                                        value="{{ $view->sizeSaid($group->key($volume)) }}">
                                    MiB, at least {{ Words::size($is->needs) }}
                                @else
                                    <x-size :bytes="$is->bytes" />
                                @endif
                            </td>
                            <td>{{ $volume->content->type }}{{ $volume->content->type === '' ? '' : ', '
                                }}{{ $volume->content->kind->words() }}</td>
                        </tr>
                    @endforeach
                @endforeach
            </tbody>
        </table>
        @can('order', $one)
            <button class="btn btn-sm btn-outline-primary" name="do" value="layout" id="relayout">Lay it out like that</button>
            @if ($view->mayOrder())
                <button class="btn btn-sm btn-outline-primary" name="do" value="rehearse" id="rehearse">Rehearse: all but writing</button>
                <fieldset class="mt-3">
                    <legend class="fs-6">Write over what is there</legend>
                    @foreach ($plan->confirmations() as $name => $asked)
                        <p class="mb-1"><label for="confirm_{{ $name }}">To say that <span class="mono">{{ $name }}</span> may be written
                                over, type <span class="mono">{{ $asked }}</span></label>
                            <input class="form-control form-control-sm d-inline-block w-auto mono" id="confirm_{{ $name }}"
                                name="confirm_{{ $name }}" value="{{ old("confirm_$name") }}" autocomplete="off" spellcheck="false"></p>
                    @endforeach
                    <p class="mb-1"><label><input type="checkbox" name="renew_id" id="renew_id" value="1"> With a machine id of its
                            own</label> <span class="form-text">Where the machine that it was is used further. Its host keys are
                            kept.</span></p>
                    <div class="inline mb-1"><label for="follow">Kept in step with newer points, every</label><input
                            class="form-control form-control-sm num" id="follow" name="follow" size="4" inputmode="numeric"
                            value="{{ old('follow') }}"> min <span class="form-text">Its medium waits until it is switched over. Empty:
                            it restarts at once.</span></div>
                    <button class="btn btn-primary mt-1" name="do" value="order" id="order">Bring it onto that machine</button>
                    <span class="muted">{{ $plan->sentence($zone) }}</span>
                </fieldset>
            @else
                @foreach (array_diff($plan->blockers(), $plan->layout->misfits) as $blocker)
                    <p class="attention mb-1 mt-2">{{ $blocker }}</p>
                @endforeach
            @endif
        @endcan
    </form>
</section>
