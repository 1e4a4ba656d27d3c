'use client';

import { Component, type ReactNode } from 'react';
import { messageOf } from '@/core/errors';
import { PartFailure } from './PartFailure';

interface Props {
  readonly name: string;
  readonly onClose?: () => void;
  readonly children: ReactNode;
}

interface State {
  readonly failure: string | null;
}

/** Keeps a fault of one part of the page to that part. */
export class PartBoundary extends Component<Props, State> {
  override state: State = { failure: null };

  static getDerivedStateFromError(error: unknown): State {
    return { failure: messageOf(error) };
  }

  override render(): ReactNode {
    const { name, onClose, children } = this.props;
    const { failure } = this.state;
    if (failure === null) return children;
    return <PartFailure name={name} why={failure} onRetry={() => this.setState({ failure: null })} onClose={onClose} />;
  }
}
