@use('App\Words')
@php($what = $view)
@php($opened = $view->opened())
<x-layout title="Yours" here="Yours">
    <main id="main" class="page">
        <h1>{{ $view->box->name }} <span class="muted fs-6 fw-normal">what was in it, as the sets of {{ $view->box->workload->name }} have
                it</span></h1>
        @if (count($view->all) > 1)
            <p class="mb-2">Yours too:
                @foreach ($view->all as $one)
                    <a @if ($one == $view->box) aria-current="true" @endif class="text-decoration-underline"
                        href="{{ $one->page() }}">{{ $one->name }}</a>{{
                            $loop->last ? '' : ',' }}
                @endforeach
            </p>
        @endif
        <form method="get" action="{{ $view->address() }}" class="inline mb-1" role="search">
            <input type="hidden" name="mailbox" value="{{ $view->box->name }}">
            <label class="visually-hidden" for="own-query">Look for what was in it</label>
            <input class="form-control mono grow" id="own-query" name="q" maxlength="1000" value="{{ $view->query }}"
                @if ($opened === null) data-focus @endif autocomplete="off"
                placeholder="words, from:somebody subject:&quot;dry dock&quot; before:2026-11-02">
            <button class="btn btn-sm btn-primary">Search</button>
        </form>
        @if ($view->problem !== null)
            <p class="attention" role="alert">{{ $view->problem }}</p>
        @elseif ($view->query !== '' && $view->waiting() > 0)
            <p class="assumed">{{ Words::count($view->waiting(), 'item') }} are still to be looked through: of these only who, when and
                subject are found so far.</p>
        @endif
        @if ($opened !== null)
            @include('kinds.items.letter')
        @elseif ($view->opened !== '')
            <p class="empty">There is nothing of that name in it.</p>
        @else
            @include('kinds.items.own.list')
        @endif
    </main>
</x-layout>
